/** Reminders: by mail to who wishes them, and on whichever page somebody is while something cannot wait. */
import { accessible, expect, fits, recordAs, systemId, test } from './support'

test.use({ viewport: { width: 390, height: 844 } })

test('a wish is answered from the letter, and the list of the day comes with links that open the systems', async ({
  page,
}) => {
  await page.goto(`/system/${await systemId(page, 'Loft rails')}/visit`)
  await recordAs(page, 'Wren')
  await page.goto('/people')
  await page.getByLabel('Your mail address').fill('wren@garden.example')
  await page.getByRole('button', { name: 'Send me reminders' }).click()
  await expect(page.getByText('A mail is on its way to wren@garden.example')).toBeVisible()
  await accessible(page)
  await fits(page)
  await page.getByRole('link', { name: 'Look into the demo’s mailbox' }).click()
  await page.getByRole('link', { name: /\/remind#/ }).click()
  await page.getByRole('button', { name: 'Yes, send reminders' }).click()
  await expect(page.getByText('From now on Mopsel sends you reminders.')).toBeVisible()
  await page.goto('/mailbox')
  const letter = page.getByRole('article').filter({ hasText: 'Today: ' })
  await expect(letter).toBeVisible()
  await accessible(page)
  await fits(page)
  await letter
    .getByRole('link', { name: /\/system\// })
    .first()
    .click()
  await expect(page).toHaveURL(/\/system\//)
  await page.goto('/people')
  await page.getByRole('button', { name: 'Stop the reminders' }).click()
  await expect(page.getByRole('button', { name: 'Send me reminders' })).toBeVisible()
})

test('what becomes a danger is said on other pages and in the tab, and opens its system', async ({ page }) => {
  const system = await systemId(page, 'Loft rails')
  const places = (await (await page.request.get('/api/places')).json()) as {
    people: { id: string; body: { name: string } }[]
    systems: { id: string }[]
  }[]
  const place = places.find((one) => one.systems.some(({ id }) => id === system))!
  const by = place.people.find((one) => one.body.name === 'Wren')!.id
  const leak = { kind: 'visit', running: { dry_floor: false } }
  await page.goto('/log')
  const bar = page.getByRole('status').filter({ hasText: 'It cannot wait.' })
  // What was one before is known.
  await expect
    .poll(() => page.evaluate(() => sessionStorage.getItem('mopsel.dangers')), { timeout: 15_000 })
    .toBeTruthy()
  await expect(bar).toHaveCount(0)
  const answer = await page.request.post(`/api/systems/${system}/entries`, {
    headers: { 'Mopsel-Person': by },
    data: { id: crypto.randomUUID(), body: leak },
  })
  expect(answer.status(), await answer.text()).toBe(201)
  await expect(async () => {
    // Whoever comes back to the page has it asked anew.
    await page.evaluate(() => window.dispatchEvent(new Event('visibilitychange')))
    await expect(bar).toBeVisible({ timeout: 2_000 })
  }).toPass({ timeout: 30_000 })
  await accessible(page)
  await fits(page)
  await expect(page).toHaveTitle(/^Act now, Loft rails/)
  await bar.getByRole('link', { name: 'Open it' }).click()
  await expect(page.getByRole('heading', { name: 'Loft rails' })).toBeVisible()
  await expect(bar).toHaveCount(0)
})
