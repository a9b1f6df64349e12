import { accessible, expect, fits, recordAs, systemId, test } from './support'

test('a drum whose size is set up is read with a rule, and is refused more than it holds', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  const id = await systemId(page, 'Reading-room rack')
  await page.goto(`/set-up?system=${id}&part=system`)
  await page.getByText('What it has, and its methods').click()
  const drum = page.getByRole('group', { name: /^The top-off reservoir behind the float valve/ })
  await drum.getByRole('radio', { name: 'Round, straight' }).click()
  await drum.getByLabel('Inner diameter').fill('300')
  await drum.getByLabel('Inner height').fill('500')
  await expect(drum.getByText('Holds')).toContainText('35.3 L')
  await fits(page)
  await accessible(page)
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('Saved.', { exact: true })).toBeVisible()
  await page.goto(`/system/${id}/visit?step=level`)
  await recordAs(page, 'Wren')
  const height = page.getByLabel('Height of the water in the top-off reservoir')
  await height.fill('700')
  await expect(page.locator('.wrong').filter({ hasText: 'rim' })).toBeVisible()
  await height.fill('200')
  await page.goto(`/system/${id}/visit?step=close`)
  await page.getByRole('button', { name: 'Save the visit' }).click()
  await expect(
    page.getByRole('region', { name: 'Log' }).getByText('Left in the top-off reservoir: 14.1 L').first(),
  ).toBeVisible()
})
