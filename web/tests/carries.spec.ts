import { accessible, expect, fits, systemId, test } from './support'

test('too small a vessel is named while a crop is typed, with its week and what would help', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  const id = await systemId(page, 'Shelf jars (4)')
  await page.goto(`/set-up?system=${id}&part=plantings`)
  await page.getByRole('button', { name: 'Plant something' }).click()
  await page.getByLabel('Crop').fill('Tomato')
  await page.getByLabel(/^In ports/).fill('1-4')
  const said = page.getByRole('status').filter({ hasText: 'This vessel' })
  await expect(said).toContainText('This vessel is too small for these 8 plants. It falls below its minimum about ')
  await expect(said).toContainText('(week ')
  await expect(said).toContainText('Grow 2 of the 4 plants (tomato) in it.')
  await expect(said).toContainText('Use a vessel of about ')
  await fits(page)
  await accessible(page)
  // Enough by itself, and said of what stands there now.
  await page.getByLabel('Crop').fill('Lettuce')
  await page.getByLabel(/^In ports/).fill('1')
  await expect(said).toContainText('This vessel is large enough for these 5 plants until harvest.')
  // What is sown is told how, and when it is sown again.
  await page.getByLabel('Stage', { exact: true }).selectOption('Germinating')
  await expect(page.getByText('Soak the medium in plain water')).toBeVisible()
  await expect(
    page.getByText('It should be up by Tue 16 Mar. If nothing shows by Tue 23 Mar, sow again.'),
  ).toBeVisible()
})

test('where the whole vessel is swapped, the led change begins with a swap', async ({ page }) => {
  const id = await systemId(page, 'Shelf jars (4)')
  await page.goto(`/set-up?system=${id}&part=system`)
  await page.getByText('What it has, and its methods').click()
  await page.getByLabel('How far a refill may raise the water').selectOption('Swap the whole vessel when it is low')
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('Saved.', { exact: true })).toBeVisible()
  await page.goto(`/system/${id}/change`)
  await expect(page.getByRole('checkbox', { name: /^Swap: a second, clean vessel/ })).toBeChecked()
  await expect(page.getByText('filled to')).toBeVisible()
})
