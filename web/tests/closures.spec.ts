import { accessible, expect, fits, printed, recordAs, systemId, test } from './support'

test('the round says that a place is closed soon, and its plan prints as one sheet for whoever covers', async ({
  page,
}) => {
  await page.goto('/')
  await page
    .getByText(/room 6 is closed/)
    .getByRole('link', { name: 'See the cover plan' })
    .click()
  await expect(page.getByRole('heading', { name: 'Cobble Row School, room 6: cover plan' })).toBeVisible()
  await expect(page.getByText(/Term break, closed Sat 13 Mar to Sun 28 Mar, 16 days/)).toBeVisible()
  const tower = page.getByRole('region', { name: /On the last day/ }).getByRole('article', { name: 'Corner tower' })
  await expect(tower.getByText(/fill it|Fill it up/i).first()).toBeVisible()
  const cover = page.getByRole('region', { name: 'For whoever covers' })
  await expect(cover.getByText('Look and listen').first()).toBeVisible()
  await expect(cover.getByText('Done by').first()).toBeVisible()
  await accessible(page)
  for (const format of ['A4', 'Letter'] as const) {
    const { pages, over } = await printed(page, format)
    expect(over, format).toEqual([])
    expect(pages).toBeGreaterThanOrEqual(2)
    expect(pages).toBeLessThanOrEqual(4)
  }
  await page.setViewportSize({ width: 320, height: 700 })
  await fits(page)
})

test('closures are tapped on a month’s sheet, read from a calendar file, and removed again', async ({ page }) => {
  const id = await systemId(page, 'Window crate')
  await page.goto(`/system/${id}`)
  await recordAs(page, 'Wren')
  await page.goto('/set-up')
  await page.getByRole('button', { name: 'Closures of Tern Street flat' }).click()
  const sheet = page.getByRole('dialog', { name: 'Days on which nobody comes' })
  await expect(sheet.getByText('None yet.')).toBeVisible()
  await sheet.getByRole('button', { name: '12', exact: true }).first().click()
  await sheet.getByRole('button', { name: '16', exact: true }).first().click()
  await sheet.getByLabel('What it is called').fill('Sea')
  await accessible(page)
  await sheet.getByRole('button', { name: 'Add this closure' }).click()
  await expect(sheet.getByRole('button', { name: 'Remove: Sea' })).toBeVisible()
  const ics = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'BEGIN:VEVENT',
    'UID:1',
    'SUMMARY:Easter',
    'DTSTART;VALUE=DATE:20990326',
    'DTEND;VALUE=DATE:20990330',
    'END:VEVENT',
    'BEGIN:VEVENT',
    'UID:2',
    'SUMMARY:Meeting',
    'DTSTART:20990401T100000Z',
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\r\n')
  const file = (name: string, text: string) => ({ name, mimeType: 'text/calendar', buffer: Buffer.from(text) })
  await sheet.locator('input[type=file]').setInputFiles(file('broken.ics', 'no calendar'))
  await expect(sheet.getByRole('alert')).toContainText('Export the calendar again')
  await sheet.locator('input[type=file]').setInputFiles(file('term.ics', ics))
  await expect(sheet.getByText('One closure that is not here yet:')).toBeVisible()
  await sheet.getByText('1 left out: why').click()
  await expect(sheet.getByText('Meeting: it has hours')).toBeVisible()
  await sheet.getByRole('button', { name: 'Add it', exact: true }).click()
  await sheet.getByRole('button', { name: 'Save' }).click()
  await expect(sheet).toHaveCount(0)
  await page.getByRole('link', { name: 'Cover plan of Tern Street flat' }).click()
  await expect(page.getByText(/Sea, closed/)).toBeVisible()
  await page.goto('/set-up')
  await page.getByRole('button', { name: 'Closures of Tern Street flat' }).click()
  for (const name of ['Sea', 'Easter']) await sheet.getByRole('button', { name: `Remove: ${name}` }).click()
  await sheet.getByRole('button', { name: 'Save' }).click()
  await expect(sheet).toHaveCount(0)
  await expect(page.getByRole('link', { name: 'Cover plan of Tern Street flat' })).toHaveCount(0)
})

test('a person’s calendar has an address that can be ended', async ({ page }) => {
  await page.goto('/set-up')
  const place = page.getByRole('region', { name: 'Gullhaven Library, seed loft' })
  await place.getByRole('button', { name: 'Edit Ansa' }).click()
  const sheet = page.getByRole('dialog', { name: 'Edit Ansa' })
  await sheet.getByRole('button', { name: 'Make a calendar address' }).click()
  const address = await sheet.getByLabel('Address of the calendar').inputValue()
  await expect(sheet.getByText('It works once you have saved.')).toBeVisible()
  await accessible(page)
  await sheet.getByRole('button', { name: 'Save' }).click()
  await expect(sheet).toHaveCount(0)
  const read = await page.request.get(address)
  expect(read.status()).toBe(200)
  expect(await read.text()).toContain('SUMMARY:Loft rails: Rinse the mesh filters')
  await place.getByRole('button', { name: 'Edit Ansa' }).click()
  await sheet.getByRole('button', { name: 'End this address' }).click()
  await sheet.getByRole('button', { name: 'Save' }).click()
  await expect(sheet).toHaveCount(0)
  expect((await page.request.get(address)).status()).toBe(404)
})
