import { accessible, expect, fits, systemId, test } from './support'

test('all that is fine at a place goes in one list, with what is not fine opened', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  let taps = 0
  const tap = async (locator: ReturnType<typeof page.getByRole>) => {
    taps += 1
    await locator.click()
  }
  await page.goto('/')
  await tap(page.getByRole('link', { name: /\d at Long Acre polytunnel/ }))
  await expect(page.getByRole('heading', { name: 'Long Acre polytunnel' })).toBeVisible()
  await tap(page.getByRole('radio', { name: 'Wren' }))
  await expect(page.getByRole('checkbox', { name: /Bean table/ })).toBeChecked()
  await expect(page.getByRole('checkbox', { name: /Bucket row/ })).not.toBeChecked()
  await fits(page)
  await accessible(page)
  await tap(page.getByRole('button', { name: /All fine at these \d/ }))
  console.log(`all fine for a place: ${taps} taps with the first choice of who records`)
  expect(taps).toBeLessThanOrEqual(3)
  await expect(page.getByText(/Looked in at .*: all fine\./)).toBeVisible()
  await expect(page.getByRole('link', { name: 'Next: Bucket row' })).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('checkbox', { name: /Bean table/ })).toBeEnabled()
  await page.goto(`/system/${await systemId(page, 'Bean table')}`)
  await expect(page.getByRole('region', { name: 'Log' })).toContainText('Withdrawn')
})

test('where root rot is open nothing is ticked as fine from afar', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('link', { name: /\d at Gullhaven Library/ }).click()
  await expect(page.getByRole('checkbox', { name: /Propagation tote/ })).toBeDisabled()
  await expect(page.getByText('Root rot is open here')).toBeVisible()
  await page.goto('/here/0b9ac6b0-0000-4000-8000-000000000000')
  await expect(page.getByRole('heading', { name: 'There is no such place' })).toBeVisible()
})
