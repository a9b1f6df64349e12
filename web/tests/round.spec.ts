import { accessible, expect, fits, settled, systemId, test } from './support'

test('the round opens with the system that has least margin, and why', async ({ page }) => {
  await page.goto('/')
  // A reservoir that was found empty is a matter of hours; rot is one of days, and stands next.
  const first = page.getByRole('region', { name: 'First: Bucket row' })
  await expect(first.getByRole('heading', { name: 'Fill the top-off reservoir' })).toBeVisible()
  await first.getByText(/^(Act today|Safe until tomorrow)$/).click()
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
  const hands = (await page.getByText(/\d+ need a hand today/).innerText()).match(/(\d+) need/)![1]
  const { systems } = await (await page.request.get('/api/round')).json()
  const pressing = await today
    .getByRole('listitem')
    .filter({ has: page.locator('.mark.hand') })
    .allInnerTexts()
  const named = systems.filter(({ name }: { name: string }) => pressing.some((row) => row.includes(name)))
  expect(named).toHaveLength(Number(hands))
  const safe = rows.map((row) => Number(row.match(/Safe for (\d+)/)?.[1] ?? 1))
  expect(safe).toEqual([...safe].sort((a, b) => a - b))
  await today
    .getByRole('link', { name: /Read the level/ })
    .first()
    .click()
  await expect(page.getByLabel('Water in the vessel')).toBeVisible()
  await expect(page).toHaveURL(/step=level/)
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
