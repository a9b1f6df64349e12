import { accessible, expect, fits, systemId, test, recordAs } from './support'

test('a system shows its state, what is due and why, its trends and its log', async ({ page }) => {
  await page.goto(`/system/${await systemId(page, 'Bean table')}`)
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Bean table')
  await expect(page.getByRole('region', { name: 'Findings' })).toContainText('below 500–900 ppm (500)')
  await expect(page.getByRole('img', { name: /^EC over time, \d+ readings/ })).toBeVisible()
  await expect(page.getByRole('region', { name: 'State' })).toContainText('°F')
  await expect(page.getByRole('region', { name: 'Log' })).toContainText('Lowest leaves of nine plants pale')
  await accessible(page)
  await page.setViewportSize({ width: 390, height: 844 })
  await fits(page)
})

test('a refill limit is drawn and given its reason', async ({ page }) => {
  await page.goto(`/system/${await systemId(page, 'Window crate')}`)
  await expect(page.getByRole('region', { name: 'State' })).toContainText('At most 25 mm at a time')
})

test('one tap does a task, its date moves, and undo brings it back', async ({ page }) => {
  await page.goto(`/system/${await systemId(page, 'Loft rails')}`)
  await recordAs(page, 'Ansa')
  const task = page
    .getByRole('region', { name: 'What is due' })
    .getByRole('listitem')
    .filter({ hasText: 'Rinse the mesh filters' })
  await expect(task).toContainText('due today')
  await task.getByRole('button', { name: 'Rinse the mesh filters: done' }).click()
  await expect(task).toContainText('in 1 day')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(task).toContainText('due today')
  await expect(page.getByRole('region', { name: 'Log' })).toContainText('Withdrawn')
})

test('an amendment keeps the original in sight, with its reason', async ({ page }) => {
  await page.goto(`/system/${await systemId(page, 'Mat bench')}`)
  await recordAs(page, 'Wren')
  const log = page.getByRole('region', { name: 'Log' })
  await log
    .getByRole('button', { name: /^Amend the entry of Tue 9 Mar/ })
    .first()
    .click()
  const sheet = page.getByRole('dialog', { name: 'Amend an entry' })
  await sheet.getByLabel('Water temperature').fill('66')
  await sheet.getByLabel('What was wrong').fill('Read the wrong thermometer')
  await accessible(page)
  await sheet.getByRole('button', { name: 'Amend it' }).click()
  await expect(sheet).toBeHidden()
  const top = log.getByRole('listitem').first()
  await expect(top).toContainText('Water 66.0 °F')
  await expect(top).toContainText('Amended: Read the wrong thermometer')
})
