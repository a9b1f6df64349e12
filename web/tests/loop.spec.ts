import { accessible, expect, fits, recordAs, systemId, test } from './support'

test('each vessel of a loop is read, and one that stands low is told', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  const id = await systemId(page, 'Bucket row')
  await page.goto(`/system/${id}/visit`)
  await recordAs(page, 'Wren')
  await page.getByRole('button', { name: 'Read each vessel instead' }).click()
  const each = page.getByRole('group', { name: 'Each vessel' })
  await each.getByRole('button', { name: 'One more vessel' }).click()
  await each.getByLabel('Vessel 1').fill('9')
  await expect(each.getByText('2 still to be read.')).toBeVisible()
  await each.getByLabel('Vessel 2').fill('8.5')
  await each.getByLabel('Vessel 3').fill('4')
  await expect(page.locator('summary', { hasText: 'Vessel 3 holds 4.0 gal, the fullest 9.0 gal' })).toBeVisible()
  await expect(each.getByText('Together 21.5 gal.')).toBeVisible()
  await fits(page)
  await accessible(page)
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('Clear the pipe between the vessels').first()).toBeVisible()
  await expect(
    page.getByRole('region', { name: 'Log' }).getByText('Each vessel: 9.0 gal, 8.5 gal, 4.0 gal'),
  ).toBeVisible()
})
