import { accessible, expect, fits, openVisit, systemId, test } from './support'

const PAGES: [string, (id: string) => string, string][] = [
  ['the round', () => '/', '**/api/round'],
  ['a system', (id) => `/system/${id}`, '**/api/systems/*'],
  ['a visit', (id) => `/system/${id}/visit`, '**/api/systems/*'],
  ['a change', (id) => `/system/${id}/change`, '**/api/systems/**'],
  ['set-up', () => '/set-up', '**/api/places'],
  ['the notices', () => '/notices', '**/notices.json'],
]

for (const [name, path, api] of PAGES) {
  test(`${name} says so when Mopsel cannot be reached, and goes on when it can`, async ({ page }) => {
    const id = await systemId(page, 'Blue raft')
    await page.route(api, (route) => route.abort())
    await page.goto(path(id))
    await expect(page.getByRole('alert').first()).toBeVisible()
    await expect(page.getByRole('status').filter({ hasText: 'Loading' })).toHaveCount(0)
    await page.unroute(api)
    await page.getByRole('button', { name: 'Try again' }).first().click()
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    await expect(page.getByRole('alert')).toHaveCount(0)
  })
}

test('a file that cannot be read just now is named on the page, with what to do', async ({ page, allow }) => {
  allow.push(/503 \(Service/)
  await page.route('**/api/round', (route) =>
    route.fulfill({
      status: 503,
      contentType: 'application/problem+json',
      body: JSON.stringify({
        title: 'The file is locked',
        status: 503,
        detail: 'garden.db is locked by another program.',
      }),
    }),
  )
  await page.goto('/')
  await expect(page.getByRole('alert')).toContainText('locked by another program')
})

test('what is recorded without a connection waits in sight, and goes by itself when there is one', async ({
  page,
  context,
}) => {
  await openVisit(page, 'Reading-room rack')
  await expect(page.getByRole('button', { name: 'All fine' })).toBeEnabled()
  await context.setOffline(true)
  await page.getByRole('button', { name: 'All fine' }).click()
  const bar = page.getByRole('status').filter({ hasText: 'kept on this device' }).first()
  await expect(bar).toBeVisible()
  await page.setViewportSize({ width: 390, height: 844 })
  await fits(page)
  await context.setOffline(false)
  await expect(page.getByText('kept on this device')).toHaveCount(0)
  await page.goto(`/system/${await systemId(page, 'Reading-room rack')}`)
  const first = page.getByRole('region', { name: 'Log' }).getByRole('listitem').first()
  await expect(first).toContainText('all fine')
  await first.getByRole('button', { name: 'Amend' }).click()
  await page.getByLabel('What was wrong').fill('Only a trial')
  await page.getByRole('button', { name: 'Withdraw the entry' }).click()
  await expect(page.getByRole('dialog')).toHaveCount(0)
})

test('who types at once in a sheet is not moved to another of its fields', async ({ page }) => {
  await page.goto(`/system/${await systemId(page, 'Reading-room rack')}`)
  const first = page.getByRole('region', { name: 'Log' }).getByRole('listitem').first()
  await first.getByRole('button', { name: 'Amend' }).waitFor()
  // As a quick hand does: to the reason as soon as the sheet has come, before its first field has the focus.
  await page.evaluate(() =>
    document.addEventListener(
      'focusin',
      () => {
        const reason = document.querySelector<HTMLElement>('#amend-reason')
        if (reason && reason !== document.activeElement && !reason.dataset.quick) {
          reason.dataset.quick = 'yes'
          reason.focus()
        }
      },
      true,
    ),
  )
  await first.getByRole('button', { name: 'Amend' }).click()
  const reason = page.getByLabel('What was wrong')
  await expect(reason).toHaveAttribute('data-quick', 'yes')
  // For longer than the sheet takes to settle, a key at a time.
  await page.keyboard.type('The meter was not rinsed.', { delay: 25 })
  await expect(reason).toHaveValue('The meter was not rinsed.')
})

test('an entry on its way survives a reload', async ({ page }) => {
  await openVisit(page, 'Reading-room rack')
  await page.route('**/entries', (route) => route.abort())
  await page.getByRole('button', { name: 'All fine' }).click()
  await expect(page.getByText('kept on this device').first()).toBeVisible()
  await page.unroute('**/entries')
  const sent = page.waitForResponse((answer) => answer.url().endsWith('/entries') && answer.status() < 300)
  await page.reload()
  // What was answered may be gone with the page that asked; what was asked is not.
  const request = (await sent).request()
  const entry = { ...(request.postDataJSON() as { id: string }), by: request.headers()['mopsel-person'] ?? '' }
  const id = await systemId(page, 'Reading-room rack')
  const withdrawn = {
    id: entry.id.replace(/^......../, '0000aaaa'),
    amends: entry.id,
    reason: 'Only a trial',
    body: { kind: 'withdrawn' },
  }
  const headers = { 'Mopsel-Person': entry.by }
  const taken = await page.request.post(`/api/systems/${id}/entries`, { headers, data: withdrawn })
  expect(taken.status()).toBe(201)
})

test('a card made and a wait begun without a connection are kept through a reload, and sent after it', async ({
  page,
  context,
}) => {
  const id = await systemId(page, 'Loft rails')
  await page.goto('/set-up')
  const place = page.getByRole('region', { name: 'Gullhaven Library, seed loft' })
  await place.getByRole('button', { name: 'Add a person' }).click()
  const sheet = page.getByRole('dialog')
  await sheet.getByLabel('Name').fill('Brynn')
  // The pages themselves come from where they were; only what is written cannot arrive.
  await context.route(/api\/(cards|timers)$/, (route) =>
    route.request().method() === 'POST' ? route.abort() : route.fallback(),
  )
  await sheet.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(page.getByText('kept on this device')).toBeVisible()
  await page.reload()
  await expect(page.getByText('kept on this device')).toBeVisible()
  await page.goto(`/bench?system=${id}&for=jug&litres=5`)
  await page
    .getByRole('button', { name: /Start \d+ minutes/ })
    .first()
    .click()
  await expect(page.getByText('2 entries are kept on this device')).toBeVisible()
  await context.unroute(/api\/(cards|timers)$/)
  await page.reload()
  await expect(page.getByText('kept on this device')).toHaveCount(0)
  const timers = page.getByRole('list', { name: 'Timers' })
  await expect(timers.getByText('Loft rails')).toBeVisible()
  await timers
    .getByRole('button', { name: /Put the timer away/ })
    .first()
    .click()
  await page.goto('/set-up')
  await expect(page.getByText('Brynn')).toHaveCount(1)
})

test('choices are moved by the arrow keys, long lists are found by typing, days are typed or picked', async ({
  page,
}) => {
  await page.goto('/set-up')
  await page.getByRole('link', { name: 'Window crate' }).click()
  const kinds = page.getByRole('radiogroup', { name: 'Kind of system' })
  await kinds.getByRole('radio', { name: /^Still water/ }).focus()
  await page.keyboard.press('ArrowRight')
  await expect(kinds.getByRole('radio', { name: /^Aerated raft/ })).toBeChecked()
  await page.getByText('What it has, and its methods').click()
  await page.getByRole('combobox', { name: 'Fed by the recipe' }).focus()
  await page.keyboard.press('Enter')
  await page.getByRole('searchbox').fill('three')
  await expect(page.getByRole('listbox').getByRole('option')).toHaveCount(3)
  await accessible(page)
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('combobox', { name: 'Fed by the recipe' })).toContainText(/three/i)
  await page.getByLabel('Running since').fill('2026-12-24')
  await page.keyboard.press('Tab')
  await expect(page.getByLabel('Running since')).toHaveValue('2026-12-24')
  await page.getByRole('radio', { name: 'From an earlier day' }).check()
  await page.getByLabel('The day').click()
  await expect(page.getByRole('dialog', { name: /date/i })).toBeVisible()
  await accessible(page)
})

test('what Mopsel is made of is listed with its licences', async ({ page }) => {
  await page.goto('/set-up')
  await page.getByRole('link', { name: /What Mopsel is made of/ }).click()
  await page.getByRole('button', { name: 'Sofia Sans' }).click()
  await expect(page.getByText('SIL Open Font License').first()).toBeVisible()
  await expect(page.getByRole('region', { name: 'In the program' }).getByRole('listitem')).not.toHaveCount(0)
  await accessible(page)
  await page.setViewportSize({ width: 390, height: 844 })
  await fits(page)
})

test.describe('on a garden of one’s own', () => {
  test.use({ garden: 'empty' })

  test('a device whose clock is years behind is asked about it before anything is written', async ({ page }) => {
    await page.clock.setFixedTime(new Date('2019-01-01T08:00:00Z'))
    await page.goto('/set-up')
    await page.getByLabel('Name of the place').fill('Shed')
    await page.getByLabel('Your name, as it stands in the log').fill('Ansa')
    await page
      .getByRole('button', { name: /Keep|Add|Set up|Next/ })
      .last()
      .click()
    const asked = page.getByRole('alert').filter({ has: page.getByRole('button', { name: 'I set the clock' }) })
    await expect(asked).toContainText('1 Jan 2019')
    await accessible(page)
    await asked.getByRole('button', { name: 'I set the clock' }).click()
    await expect(asked).toHaveCount(0)
  })
})
