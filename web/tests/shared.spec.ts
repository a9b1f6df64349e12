import { accessible, choose, expect, fits, systemId, test } from './support'

test('one drum fills two systems, is read where it belongs and known at both', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  const [row, mat] = [await systemId(page, 'Bucket row'), await systemId(page, 'Mat bench')]
  const setUp = async (system: string) => {
    await page.goto(`/set-up?system=${system}&part=system`)
    await page.getByText('What it has, and its methods').click()
  }
  await setUp(mat)
  await page.getByLabel('Float valve with a top-off reservoir').check()
  await choose(page, 'Its top-off reservoir', 'That of Bucket row')
  await page.getByLabel('Share of the top-off reservoir that flows in here').fill('40')
  await fits(page)
  await accessible(page)
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.locator('.wrong').filter({ hasText: 'Open Bucket row under Set-up' }).first()).toBeVisible()
  await setUp(row)
  await page.getByLabel('Share of the top-off reservoir that flows in here').fill('60')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('Saved.', { exact: true })).toBeVisible()
  await setUp(mat)
  await page.getByLabel('Float valve with a top-off reservoir').check()
  await choose(page, 'Its top-off reservoir', 'That of Bucket row')
  await page.getByLabel('Share of the top-off reservoir that flows in here').fill('40')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('Saved.', { exact: true })).toBeVisible()
  await page.goto(`/system/${mat}`)
  await expect(page.getByText(/^The top-off reservoir /).first()).toBeVisible()
  await page.goto(`/system/${mat}/visit`)
  await expect(page.getByLabel('Water temperature')).toBeVisible()
  await expect(page.getByLabel('Left in the top-off reservoir')).toHaveCount(0)
})
