import { accessible, expect, fits, printed, test } from './support'

test('the round is made ready in one go and walked stop by stop, and prints', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('link', { name: 'Make ready and walk it' }).click()
  await expect(page.getByRole('heading', { name: 'The round, stop by stop' })).toBeVisible()
  const order = await page.locator('main').innerText()
  expect(order.lastIndexOf('Propagation tote'), 'rot is visited last').toBeGreaterThan(order.lastIndexOf('Loft rails'))
  await accessible(page)
  const kit = page.getByRole('region', { name: 'Make ready' })
  await kit.getByRole('checkbox', { name: 'the meter' }).check()
  await page.reload()
  await expect(kit.getByRole('checkbox', { name: 'the meter' })).toBeChecked()
  await kit.getByRole('link', { name: 'Bench' }).first().click()
  await expect(page.getByRole('heading', { name: /Bench/ })).toBeVisible()
  await page.goBack()
  await page.getByRole('button', { name: 'Tern Street flat' }).click()
  await expect(page.getByRole('article', { name: 'Bucket row' })).toHaveCount(0)
  await expect(page).toHaveURL(/places=/)
  await page.getByRole('button', { name: 'Tern Street flat' }).click()
  for (const format of ['A4', 'Letter'] as const) {
    const { pages, over } = await printed(page, format)
    expect(over, format).toEqual([])
    expect(pages).toBeLessThanOrEqual(4)
  }
  await page.setViewportSize({ width: 320, height: 700 })
  await fits(page)
})

test('labels are printed whole on A4 and Letter, and none is cut over two pages', async ({ page }) => {
  await page.goto('/set-up')
  await page.getByRole('link', { name: 'Labels of Gullhaven Library, seed loft' }).click()
  await expect(page.getByRole('img', { name: /QR code: .*\/system\/.*\/visit/ })).toHaveCount(3)
  await expect(page.getByText('These open on this computer only')).toBeVisible()
  await accessible(page)
  await page.goto('/labels')
  await expect(page.getByRole('img', { name: /QR code/ })).toHaveCount(10)
  for (const format of ['A4', 'Letter'] as const) {
    const { pages, over } = await printed(page, format)
    expect(over, format).toEqual([])
    expect(pages).toBe(1)
  }
  await page.setViewportSize({ width: 390, height: 844 })
  await fits(page)
})
