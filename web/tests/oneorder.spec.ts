import { accessible, expect, fits, personId, recordAs, systemId, test } from './support'

test('level, strength and pH that are wrong together are one order, from the visit to one entry', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  const id = await systemId(page, 'Loft rails')
  const headers = { 'Mopsel-Person': await personId(page, 'Loft rails', 'Wren') }
  const calibrated = { id: crypto.randomUUID(), body: { kind: 'visit', done: ['calibrate'] } }
  expect((await page.request.post(`/api/systems/${id}/entries`, { headers, data: calibrated })).status()).toBe(201)

  await page.goto(`/system/${id}/visit?step=measure`)
  await recordAs(page, 'Wren')
  await page.getByLabel('Height of the water').fill('290')
  await page.getByLabel('pH', { exact: true }).fill('7.4')
  await page.getByLabel('EC', { exact: true }).fill('0.7')
  // The bench begins with what was just typed, not with what the log knows.
  const low = page.locator('details', { hasText: 'EC 0.70 mS/cm, below' })
  await low.locator('summary').click()
  await low.getByRole('link', { name: 'Work it out on the bench' }).click()
  await expect(page).toHaveURL(/for=put_right.*from=\d+.*ec=0.7.*ph=7.4/)
  const answer = page.getByRole('heading', {
    name: /L .*that makes 96.0 L at .* Pour in .* of pH down, half of what it takes/,
  })
  await expect(answer).toBeVisible()
  await fits(page)
  await page.getByRole('link', { name: /See the plan/ }).click()
  await expect(answer).toBeInViewport()
  await accessible(page)
  await page.getByRole('button', { name: 'Log what was done' }).click()
  await expect(page.getByText('Logged, and the next dates have moved.')).toBeVisible()
  await page.goto(`/system/${id}`)
  const log = page.getByRole('region', { name: 'Log' })
  await expect(log.getByText(/pH down into 96.0 L, to move pH 7.4 towards/)).toBeVisible()
  await expect(log.getByText(/Level: \d+\.\d L/).first()).toBeVisible()
  // A slip in what was poured is amended like any other.
  await log.getByRole('listitem').first().getByRole('button', { name: 'Amend' }).click()
  const sheet = page.getByRole('dialog', { name: 'Amend an entry' })
  await sheet.getByLabel('Amount of pH down').fill('2')
  await sheet.getByLabel('What was wrong').fill('Only half a syringe')
  await sheet.getByRole('button', { name: 'Amend it' }).click()
  await expect(log.getByText(/^2\.00 mL pH down into/).first()).toBeVisible()
})

test('the task says how much in its first line, and its button opens the same plan', async ({ page }) => {
  await page.goto('/')
  const row = page.getByRole('complementary', { name: 'Today' }).getByRole('link', { name: /Next peroxide dose/ })
  const said = await row.getByText(/^Pour \d+ mL of/).textContent()
  await row.click()
  await expect(page.getByRole('heading', { name: said!.trim() })).toBeVisible()
  await page.goto('/')
  const first = page.getByRole('region', { name: /^First: / })
  const amount = await first.getByText(/^Mix [\d.]+ gal/).textContent()
  await first.getByRole('link', { name: 'Mix its filling' }).click()
  await expect(page.getByRole('heading', { name: amount!.trim() })).toBeVisible()
})
