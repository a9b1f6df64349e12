import { readFileSync } from 'node:fs'
import { accessible, expect, fits, test } from './support'

test('everything is taken along in one file, and the same file brought back adds nothing', async ({ page }) => {
  await page.goto('/set-up')
  await page.getByRole('link', { name: 'Your data: take it along, or bring it in' }).click()
  await expect(page.getByRole('heading', { name: 'Your data' })).toBeVisible()
  await accessible(page)
  const saving = page.waitForEvent('download')
  await page.getByRole('link', { name: 'Download everything' }).click()
  const saved = await saving
  expect(saved.suggestedFilename()).toMatch(/^mopsel-2027-03-09\.zip$/)
  const bytes = readFileSync(await saved.path())
  expect(bytes.subarray(0, 2).toString()).toBe('PK')
  await page.getByLabel('The archive').setInputFiles({ name: 'mopsel.zip', mimeType: 'application/zip', buffer: bytes })
  await page.getByRole('button', { name: /Bring in/ }).click()
  await page.getByRole('button', { name: 'Add it' }).click()
  await expect(page.getByText(/Nothing was new\. [\d,]+ were here already/)).toBeVisible({ timeout: 60_000 })
  await page.setViewportSize({ width: 320, height: 700 })
  await fits(page)
})

test('a file that is no archive, and one with a changed byte, are told and nothing is brought in', async ({ page }) => {
  const whole = await (await page.request.get('/api/archive')).body()
  const changed = Buffer.from(whole)
  const at = whole.indexOf('entries.jsonl')
  changed[at + 2000]! ^= 1
  await page.goto('/data')
  for (const [buffer, said] of [
    [Buffer.from('place,system\r\n'), 'no archive of Mopsel'],
    [changed, /other than its checksum says|cannot be read/],
  ] as const) {
    await page.getByLabel('The archive').setInputFiles({ name: 'a.zip', mimeType: 'application/zip', buffer })
    await page.getByRole('button', { name: /Bring in/ }).click()
    await page.getByRole('button', { name: 'Add it' }).click()
    await expect(page.getByRole('alert')).toContainText('Nothing was brought in.')
    await expect(page.getByRole('alert')).toContainText(said)
  }
  await accessible(page)
})
