import { execFileSync } from 'node:child_process'
import { accessible, expect, fits, printed, settled, systemId, test, plantingId } from './support'
import type { Page } from '@playwright/test'

const csv = (name: string, text: string) => ({ name, mimeType: 'text/csv', buffer: Buffer.from(text) })
/** A logger's days up to the demo's morning, by the script that ships. */
const logger = (days: number) =>
  execFileSync('python3', [
    '../docs/examples/logger-file.py',
    'Corner tower',
    '2027-03-09T08:00',
    String(days),
  ]).toString()

async function pick(page: Page, label: string | RegExp, choice: string | RegExp) {
  await page.getByRole('combobox', { name: label, exact: true }).first().click()
  await page.getByRole('option', { name: choice }).first().click()
}

test('a logger’s file is shown as it is understood, brought in, drawn, and taken back', async ({ page }) => {
  await page.goto('/data')
  await page.getByRole('link', { name: 'Choose a file of readings' }).click()
  await accessible(page)
  await page.getByLabel('The file').setInputFiles(csv('tower.csv', logger(10)))
  await expect(page.getByRole('region', { name: 'The first lines', exact: true })).toContainText('Corner tower')
  await expect(page.getByText('Times name no zone')).toBeVisible()
  await accessible(page)
  await pick(page, 'Who brings it in', 'Wren')
  await page.getByRole('button', { name: /Bring in \d+ kB/ }).click()
  await expect(page.getByText('Brought in: 2,880 lines.')).toBeVisible()
  await page.getByLabel('The file').setInputFiles(csv('tower.csv', logger(10)))
  await page.getByRole('button', { name: /Bring in \d+ kB/ }).click()
  await expect(page.getByText('Nothing was new. 2,880 were here already')).toBeVisible()
  await page.getByRole('link', { name: 'See the trends' }).click()
  await expect(page.getByText(/by 2[0-9]{3} readings/).first()).toBeVisible()
  await page.goto('/data/readings')
  await page.getByRole('button', { name: 'Take back tower.csv' }).first().click()
  await page.getByLabel('Why').fill('of another tower')
  await page.getByRole('button', { name: 'Take it back' }).click()
  await expect(page.getByText(/Taken back on .*: of another tower/)).toBeVisible()
  await page.setViewportSize({ width: 320, height: 700 })
  await fits(page)
})

test('what is not plain is asked, and answered goes on', async ({ page }) => {
  await page.goto('/data/readings')
  const text =
    'Date,Tank,ppm,Air temp\n3/4/2027 10:00,Tower by the door,850,24\n3/4/2027 10:05,Tower by the door,851,24\n'
  await page.getByLabel('The file').setInputFiles(csv('odd.csv', text.replaceAll('3/4/2027', '3/1/2027')))
  await expect(page.getByText('On which scale is ppm?')).toBeVisible()
  await expect(page.getByText('with the day or with the month first?')).toBeVisible()
  await expect(page.getByRole('button', { name: /Bring in/ })).toBeDisabled()
  await pick(page, 'In', 'ppm (500)')
  await pick(page, 'Dates are written', /month first/)
  await pick(page, 'Tower by the door', 'Corner tower')
  const first = page.getByRole('region', { name: 'The first lines', exact: true }).getByRole('row').nth(1)
  await expect(first.getByText('1 Mar 2027, 10:00', { exact: true })).toBeVisible()
  await expect(first.getByText('Corner tower', { exact: true })).toBeVisible()
  await pick(page, 'Who brings it in', 'Wren')
  await page.getByRole('button', { name: /Bring in/ }).click()
  await expect(page.getByText('Brought in: 2 lines.')).toBeVisible()
})

test('bad lines are mended where they stand, or left out, and nothing is half brought in', async ({ page }) => {
  await page.goto('/data/readings')
  const lines = logger(1).trimEnd().split('\n')
  lines.splice(5, 0, '2027-03-08 10:01;Corner tower;=6+1;1,5;20', '2027-03-08 10:02;Corner tower;1.234,5;1,5;20')
  lines.push('2031-03-08 10:01;Corner tower;6,1;1,5;20')
  await page.getByLabel('The file').setInputFiles(csv('tower.csv', lines.join('\n')))
  await pick(page, 'Who brings it in', 'Wren')
  await page.getByRole('button', { name: /Bring in/ }).click()
  const bad = page.getByRole('alert')
  await expect(bad).toContainText('Nothing was brought in yet')
  await expect(bad).toContainText('Line 6, pH')
  await expect(bad).toContainText('Found 8 Mar 2031, 10:01, which is still to come. Check')
  await accessible(page)
  const saving = page.waitForEvent('download')
  await bad.getByRole('button', { name: 'Save them as CSV' }).click()
  expect((await saving).suggestedFilename()).toBe('tower-lines.csv')
  await bad.getByLabel('Line 6', { exact: true }).fill('2027-03-08 10:01;Corner tower;6,1;1,5;20')
  await bad.getByRole('button', { name: 'Leave it out (line 7)' }).click()
  await bad.getByRole('button', { name: 'Leave it out (line 292)' }).click()
  await bad.getByRole('button', { name: 'Bring in the mended file' }).click()
  await expect(page.getByText('Brought in: 289 lines.')).toBeVisible()
})

test('what is no file of readings is told', async ({ page }) => {
  await page.goto('/data/readings')
  await page.getByLabel('The file').setInputFiles(csv('odd.csv', '\u0000\u0001\u0002'))
  await expect(page.getByRole('alert')).toContainText('It cannot be read.')
  await page.getByLabel('The file').setInputFiles(csv('empty.csv', ''))
  await expect(page.getByRole('alert')).toContainText('without a line')
})

test('systems stand beside each other: who drinks, by how much, and what the data can carry', async ({ page }) => {
  await page.goto(`/trends/${await systemId(page, 'Corner tower')}`)
  await page.getByRole('link', { name: 'Compare' }).click()
  await expect(page.getByText('there is nothing to hold it against').first()).toBeVisible()
  await pick(page, 'Add another', /^Blue raft$/)
  await expect(page.getByText(/Corner tower drinks most.*more than chance\./)).toBeVisible()
  await expect(page).toHaveURL(/of=system:.*,system:/)
  await expect(page.locator('canvas')).toBeVisible()
  await accessible(page)
  await page.getByRole('radio', { name: 'A planted port' }).check()
  await expect(page.getByRole('columnheader', { name: 'Water drunk a day [L], a port' })).toBeVisible()
  const saving = page.waitForEvent('download')
  await page.getByRole('button', { name: 'Save as CSV' }).click()
  expect((await saving).suggestedFilename()).toBe('compared.csv')
  await page.getByRole('button', { name: 'Take out Blue raft' }).click()
  await expect(page.getByText('there is nothing to hold it against').first()).toBeVisible()
  await page.setViewportSize({ width: 320, height: 700 })
  await fits(page)
})

test('the last changes of a system are held beside each other by days', async ({ page }) => {
  await page.goto('/compare')
  await expect(page.getByText('Choose two systems')).toBeVisible()
  await pick(page, 'What is compared', 'Bucket row, its last changes')
  await expect(page.getByRole('radio', { name: 'Days since each began' })).toBeChecked()
  await expect(page.getByRole('link', { name: /Bucket row from/ })).toHaveCount(4)
})

test('the report of a crop tells its work, and is printed whole on A4 and Letter', async ({ page }) => {
  await page.goto(`/planting/${await plantingId(page, 'Blue raft', 'Dill')}`)
  await expect(page.getByRole('heading', { name: 'Dill: report' })).toBeVisible()
  await expect(page.getByText(/\d+ visits, \d+ changes? of the water/)).toBeVisible()
  await accessible(page)
  for (const path of [page.url(), `/trends/${await systemId(page, 'Corner tower')}`, '/log?words=change']) {
    await page.goto(path)
    await settled(page)
    for (const format of ['A4', 'Letter'] as const) {
      const { over } = await printed(page, format)
      expect(over, `${path} on ${format}`).toEqual([])
    }
  }
})
