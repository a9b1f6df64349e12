import { accessible, expect, fits, personId, systemId, test, recordAs } from './support'

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
  // What was in them says how soon they are rinsed again.
  const found = task.getByRole('group', { name: 'Rinse the mesh filters: done, and what was in them' })
  await accessible(page)
  await found.getByRole('button', { name: 'Clean' }).click()
  await expect(task).toContainText('in 2 days')
  await expect(task).toContainText('The meshes were clean last time, so rinse them every 2 days.')
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

test('the looks of a week are one line, moved as one, and one tap says what it records', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  const id = await systemId(page, 'Blue raft')
  // Looked at on Friday, and every five days from now on: due tomorrow.
  const { card } = await (await page.request.get(`/api/systems/${id}`)).json()
  const looks = ['water_glass', 'plants', 'pests', 'roots', 'stone']
  const intervals = Object.fromEntries(looks.map((check) => [check, 5]))
  const data = { version: card.version, body: { ...card.body, intervals } }
  const headers = { 'Mopsel-Person': await personId(page, 'Blue raft', 'Wren') }
  expect((await page.request.put(`/api/cards/${id}`, { data, headers })).status()).toBe(200)
  await page.goto(`/system/${id}`)
  await recordAs(page, 'Wren')
  const line = page.getByRole('listitem').filter({ hasText: 'Weekly look: water, plants, pests, roots, air stone' })
  await expect(line).toContainText('“All sound” means: clear water that smells fresh')
  await expect(line).toContainText('in 1 day')
  await accessible(page)
  await line.getByRole('button', { name: /not today$/ }).click()
  const sheet = page.getByRole('dialog', { name: /^Weekly look/ })
  await expect(sheet.getByText('Open it and skip one part')).toBeVisible()
  await sheet.getByRole('button', { name: 'Fri 12 Mar' }).click()
  await expect(line).toContainText('in 3 days')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(line).toContainText('in 1 day')
  await line.getByRole('button', { name: /all sound$/ }).click()
  // The room is closed from Saturday on: it is due again on the last open day before.
  await expect(line).toContainText('in 3 days')
  await expect(page.getByText('Water glass: clear, smells fresh').first()).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(line).toContainText('in 1 day')
  await line.getByRole('link', { name: /look$/ }).click()
  await expect(page).toHaveURL(/step=look/)
})

test('a system is changed by need, where that is chosen', async ({ page }) => {
  const id = await systemId(page, 'Window crate')
  await page.goto(`/set-up?system=${id}`)
  await page.getByText('What it has, and its methods').click()
  await page.getByLabel('Changes of the water').selectOption('need')
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('Saved.')).toBeVisible()
  await page.goto(`/system/${id}`)
  await expect(page.getByText(/by need: EC and pH are steady|not stretched as/i).first()).toBeVisible()
})
