import { recordAs, accessible, expect, fits, settled, systemId, test } from './support'

test('the round opens with the system that has least margin, and why', async ({ page }) => {
  await page.goto('/')
  // A reservoir that was found empty is a matter of hours; rot is one of days, and stands next.
  const first = page.getByRole('region', { name: 'First: Bucket row' })
  await expect(first.getByRole('heading', { name: 'Fill the top-off reservoir' })).toBeVisible()
  await first.getByText('Act now', { exact: true }).click()
  await expect(first).toContainText(
    'The top-off reservoir was empty yesterday. Since then the tank loses 4.5 gal a day.',
  )
  await expect(page.getByRole('article')).toHaveCount(9)
  await accessible(page)
})

test('a drawing says in words what it shows', async ({ page }) => {
  await page.goto('/')
  await expect(
    page.getByRole('img', {
      name: /Still water in section: water at \d+ percent of the height, with a refill limit, sound roots/,
    }),
  ).toHaveCount(2)
})

test('today, the headline and the shelf keep one order, and each line leads to where it is done', async ({ page }) => {
  await page.goto('/')
  const today = page.getByRole('complementary', { name: 'Today' })
  await settled(page)
  const rows = await today.getByRole('listitem').allInnerTexts()
  expect(rows[0]).toContain('Bucket row')
  expect(rows.slice(0, 3).join()).toContain('Propagation tote')
  const { systems } = await (await page.request.get('/api/round')).json()
  const pressing = await today
    .getByRole('listitem')
    .filter({ has: page.locator('.mark.hand') })
    .allInnerTexts()
  const named = systems.filter(({ name }: { name: string }) => pressing.some((row) => row.includes(name)))
  const many = named.length === 1 ? 'one needs' : `${named.length} need`
  await expect(page.getByText(`${many} a hand today`)).toBeVisible()
  // First by what plants last only hours or days for, then by what is safe the shortest.
  const ranks = ['people', 'hours', 'days', 'routine']
  const { tasks } = await (await page.request.get('/api/round')).json()
  const order = (tasks as { task: { rank: string; margin_days: number } }[]).map(
    ({ task }) => ranks.indexOf(task.rank) * 1000 + task.margin_days,
  )
  expect(order).toEqual([...order].sort((a, b) => a - b))
  await today
    .getByRole('link', { name: /Read the level/ })
    .first()
    .click()
  await expect(page.getByLabel('Water in the vessel')).toBeVisible()
  await expect(page).toHaveURL(/step=level/)
})

test('a leak is first on every list, cannot be set aside, and is over with one tap of who saw it mended', async ({
  page,
}) => {
  const rack = await systemId(page, 'Reading-room rack')
  await page.goto(`/system/${rack}/visit?step=look`)
  await recordAs(page, 'Wren')
  await page.getByRole('group', { name: 'Is the floor dry?' }).getByRole('button', { name: 'A leak' }).click()
  await expect(page.getByText(/Step back\. Switch the power off/).first()).toBeVisible()
  await expect(page.getByRole('button', { name: 'Set aside' })).toHaveCount(0)
  await page.getByRole('button', { name: /Close/ }).first().click()
  await page.getByRole('button', { name: 'Save the visit' }).click()
  await expect(page).toHaveURL(new RegExp(`/system/${rack}$`))

  await page.goto('/')
  const first = page.getByRole('region', { name: 'First: Reading-room rack' })
  await expect(first).toContainText('Danger: act now')
  await expect(first).toContainText('Step back. Switch the power off at the fuse board')
  const today = page.getByRole('complementary', { name: 'Today' })
  expect((await today.getByRole('listitem').allInnerTexts())[0]).toContain('See to it: a leak')
  await accessible(page)
  await today.getByRole('button', { name: '10 min' }).click()
  await expect(today.getByRole('status').getByRole('listitem').first()).toContainText('See to it: a leak')

  await page.goto(`/system/${rack}`)
  await expect(page.getByText('What the last visits found')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Look in: done' })).toHaveCount(0)
  await accessible(page)
  await page.getByRole('button', { name: 'The leak is fixed, the floor is dry' }).click()
  await expect(page.getByText('See to it: a leak')).toHaveCount(0)
  await page.goto('/')
  await expect(page.getByRole('region', { name: 'First: Bucket row' })).toBeVisible()
})

for (const scheme of ['light', 'dark'] as const) {
  test(`the round fits a phone and keeps its contrast in the ${scheme}`, async ({ page }) => {
    await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' })
    await page.setViewportSize({ width: 390, height: 844 })
    await page.goto('/')
    await expect(page.getByRole('link', { name: 'Start the visit' })).toBeVisible()
    await fits(page)
    await accessible(page)
  })
}

test('the keyboard alone leads from the round to the tank, and ? lists the keys', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('link', { name: 'Start the visit' })).toBeVisible()
  await page.keyboard.press('?')
  const sheet = page.getByRole('dialog', { name: 'Keys' })
  await expect(sheet).toContainText('Visit the first system of the round')
  await accessible(page)
  await page.keyboard.press('Escape')
  await expect(sheet).toBeHidden()
  await page.keyboard.press('v')
  await expect(page).toHaveURL(new RegExp(`/system/${await systemId(page, 'Bucket row')}/visit`))
  await settled(page)
  // Its first number has the focus, and takes every letter: one step back it is a shortcut again.
  await page.keyboard.press('Shift+Tab')
  await page.keyboard.press('o')
  await expect(page).toHaveURL(/\/$/)
})

test('the page says so when Mopsel cannot be reached, and never that nothing is there', async ({ page }) => {
  await page.route('**/api/round', (route) => route.abort())
  await page.goto('/')
  await expect(page.getByRole('alert')).toContainText('cannot be reached')
  await page.unroute('**/api/round')
  await page.getByRole('button', { name: 'Try again' }).click()
  await expect(page.getByRole('heading', { name: 'Fill the top-off reservoir' })).toBeVisible()
})

test('ten minutes are filled with what wins the most margin, and what waits is said', async ({ page }) => {
  await page.goto('/')
  const today = page.getByRole('complementary', { name: 'Today' })
  await today.getByRole('button', { name: '10 min' }).click()
  const set = today.getByRole('status')
  await expect(set.getByText(/tasks? in \d+ minutes/)).toBeVisible()
  const minutes = (await set.locator('.num').allTextContents()).map((text) => parseInt(text))
  expect(minutes.reduce((a, b) => a + b, 0)).toBeLessThanOrEqual(10)
  await expect(set.getByText('Waits:')).toBeVisible()
  await accessible(page)
  await today.getByRole('button', { name: '10 min' }).click()
  await expect(set).toHaveCount(0)
})
