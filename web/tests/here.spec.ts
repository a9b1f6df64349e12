import { accessible, expect, fits, settled, systemId, test } from './support'

test('all that is fine at a place goes in one list, with what is not fine opened', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  let taps = 0
  const tap = async (locator: ReturnType<typeof page.getByRole>) => {
    taps += 1
    await locator.click()
  }
  await page.goto('/')
  await tap(page.getByRole('link', { name: /\d at Tern Street flat/ }))
  await expect(page.getByRole('heading', { name: 'Tern Street flat' })).toBeVisible()
  await settled(page)
  if (await page.getByRole('radio', { checked: false }).count()) await tap(page.getByRole('radio').first())
  await expect(page.getByRole('checkbox', { name: /Window crate/ })).toBeChecked()
  await expect(page.getByRole('checkbox', { name: /Shelf jars/ })).toBeChecked()
  await fits(page)
  await accessible(page)
  await tap(page.getByRole('button', { name: /All fine at these \d/ }))
  console.log(`all fine for a place: ${taps} taps with the first choice of who records`)
  expect(taps).toBeLessThanOrEqual(3)
  await expect(page.getByText(/Looked in at .*: all fine\./)).toBeVisible()
  await expect(page.getByRole('link', { name: 'All seen here: back to the round' })).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('checkbox', { name: /Window crate/ })).toBeEnabled()
  await page.goto(`/system/${await systemId(page, 'Window crate')}`)
  await expect(page.getByRole('region', { name: 'Log' })).toContainText('Withdrawn')
})

test('where root rot is open nothing is ticked as fine from afar', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('link', { name: /\d at Gullhaven Library/ }).click()
  await expect(page.getByRole('checkbox', { name: /Propagation tote/ })).toBeDisabled()
  await expect(page.getByText('Root rot is open here')).toBeVisible()
  await expect(page.getByRole('checkbox', { name: /Loft rails/ })).toBeChecked()
  await expect(page.getByRole('link', { name: 'Visit Propagation tote' })).toBeVisible()
  await page.goto('/here/0b9ac6b0-0000-4000-8000-000000000000')
  await expect(page.getByRole('heading', { name: 'There is no such place' })).toBeVisible()
})
