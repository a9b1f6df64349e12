import { accessible, expect, fits, personId, recordAs, systemId, test } from './support'

test('a seedling among old plants gets a drink from above until its roots reach', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  const id = await systemId(page, 'Window crate')
  const headers = { 'Mopsel-Person': await personId(page, 'Window crate', 'Wren') }
  const body = {
    card: 'planting',
    crop: 'Basil',
    group: 'herb',
    ports: '6',
    stage: 'seedling',
    planted_on: '2027-03-08',
  }
  const made = await page.request.post('/api/cards', {
    headers,
    data: { id: crypto.randomUUID(), parent: id, body },
  })
  expect(made.status()).toBe(201)
  await page.goto(`/system/${id}`)
  await recordAs(page, 'Wren')
  const due = page.getByRole('region', { name: 'What is due' })
  await expect(due.getByText('Give a drink from above: Basil')).toBeVisible()
  await expect(due.getByText('No drink from above is in the log.')).toBeVisible()
  await fits(page)
  await accessible(page)
  await due.getByRole('button', { name: 'Give a drink from above: Basil: done' }).click()
  await expect(due.getByText('The last drink was today.')).toBeVisible()
  await page.goto(`/system/${id}/visit?step=jobs`)
  await recordAs(page, 'Wren')
  await page.getByLabel('The young plants’ roots reach the water').check()
  await page.getByRole('button', { name: 'Next' }).click()
  await page.getByRole('button', { name: 'Save the visit' }).click()
  await expect(page).toHaveURL(/system/)
  await page.goto(`/system/${id}`)
  await expect(due.getByText('Give a drink from above')).toHaveCount(0)
})
