import type { Locator } from '@playwright/test'
import { accessible, expect, fits, settled, test, unfold } from './support'

test.use({ garden: 'first' })

test.describe('with nothing there yet', () => {
  test.use({ garden: 'empty' })

  test('an empty start leads to the first system, its crop and its meter in a few clicks', async ({ page }) => {
    await page.goto('/')
    await accessible(page)
    let clicks = 0
    const click = async (on: Locator) => {
      clicks += 1
      await on.click()
    }
    const type = async (label: string, text: string) => {
      await click(page.getByLabel(label, { exact: true }))
      await page.keyboard.type(text)
    }
    const pick = async (label: string, option: string) => {
      clicks += 2
      await page.getByLabel(label).selectOption(option)
    }
    await click(page.getByRole('link', { name: 'Set up the first system' }))
    await type('Name of the place', 'Tern Street flat')
    await type('Your name, as it stands in the log', 'Wren')
    await pick('Units', 'metric')
    await accessible(page)
    await click(page.getByRole('button', { name: 'Set up the place' }))
    await click(page.getByRole('radio', { name: /^Still water/ }))
    await type('Name of the system', 'Window crate')
    await click(page.getByRole('radio', { name: 'Tapered box' }))
    for (const [label, value] of [
      ['Length at the rim', '400'],
      ['Width at the rim', '280'],
      ['Length at the floor', '340'],
      ['Width at the floor', '225'],
      ['Inner height', '190'],
    ] as const)
      await type(label, value)
    await expect(page.getByText(/Holds 17\.8 L to the rim/)).toBeVisible()
    // A reload takes nothing of it away.
    await page.reload()
    await expect(page.getByLabel('Name of the system')).toHaveValue('Window crate')
    await expect(page.getByText('It is not saved yet.')).toBeVisible()
    await expect(page.getByText(/Holds 17\.8 L to the rim/)).toBeVisible()
    await pick('How the water is measured', 'kit_and_meter')
    await type('Name of the meter', 'Kitchen pen')
    await pick('What its EC figures stand for', 'us_cm')
    await accessible(page)
    await click(page.getByRole('button', { name: 'Set up the system' }))
    await type('Crop', 'Pak choi')
    await click(page.getByRole('button', { name: 'Plant it' }))
    console.log(`a first place, system, meter and crop: ${clicks} clicks`)
    expect(clicks).toBeLessThanOrEqual(25)
    await expect(page.getByRole('button', { name: 'Edit Pak choi' })).toBeVisible()
    await page.getByRole('link', { name: 'Round' }).click()
    const first = page.getByRole('region', { name: 'First: Window crate' })
    await expect(first).toContainText('Fill it for the first time')
    await first.getByRole('link', { name: 'Change the water' }).click()
    await expect(page.getByRole('heading', { name: 'The first filling' })).toBeVisible()
    await expect(page.getByText('Drain')).toHaveCount(0)
    await page.setViewportSize({ width: 390, height: 844 })
    await fits(page)
    await page.getByRole('button', { name: 'Begin to fill' }).click()
    await expect(page.getByRole('heading', { name: 'Rinse the vessel' })).toBeVisible()
  })
})

test('a second planting gets the free ports, and never two in one unasked', async ({ page }) => {
  await page.goto('/set-up')
  await page.getByRole('link', { name: 'Window crate' }).click()
  await page.getByRole('button', { name: 'Edit Pak choi' }).click()
  await page
    .getByRole('dialog')
    .getByLabel(/^In ports/)
    .fill('1-2')
  await page.getByRole('dialog').getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('seedling, ports 1-2')).toBeVisible()
  await page.getByRole('button', { name: 'Plant something' }).click()
  await expect(page.getByLabel(/^In ports/)).toHaveValue(/^3/)
  await page.getByLabel('Crop').fill('Mizuna')
  await page.getByLabel(/^In ports/).fill('2-3')
  await page.getByRole('button', { name: 'Plant it' }).click()
  await expect(page.getByRole('alert')).toContainText('Pak choi is already in port 2.')
  await page.getByLabel(/^In ports/).fill('3')
  await page.getByRole('button', { name: 'Plant it' }).click()
  await expect(page.getByRole('button', { name: 'Edit Mizuna' })).toBeVisible()
})

test('Enter in the list of crops takes the crop, and plants nothing yet', async ({ page }) => {
  await page.goto('/set-up')
  await page.getByRole('link', { name: 'Window crate' }).click()
  await page.getByRole('button', { name: 'Plant something' }).click()
  const crop = page.getByLabel('Crop')
  await crop.pressSequentially('Mizuna')
  await expect(page.getByRole('option', { name: 'Mizuna' })).toBeVisible()
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: 'Plant it' })).toBeVisible()
  await expect(crop).toHaveValue('Mizuna')
  await expect(page.getByRole('button', { name: 'Edit Mizuna' })).toHaveCount(0)
})

test('what was typed and not saved says so when it comes back, and can be thrown away', async ({ page }) => {
  await page.goto('/set-up')
  await page.getByRole('link', { name: 'Window crate' }).click()
  await unfold(page, 'The system itself')
  const name = page.getByLabel('Name of the system')
  await expect(page.getByText('It is not saved yet.')).toHaveCount(0)
  await name.fill('Window box')
  await page.reload()
  await page.getByText('It is not saved yet.').waitFor()
  await expect(name).toHaveValue('Window box')
  await page.getByRole('button', { name: 'Start over' }).click()
  await expect(name).toHaveValue('Window crate')
  await expect(page.getByText('It is not saved yet.')).toHaveCount(0)
  await settled(page)
  await page.reload()
  await expect(name).toHaveValue('Window crate')
  await expect(page.getByText('It is not saved yet.')).toHaveCount(0)
})

test('a system is duplicated, and a refused field in a closed section opens it', async ({ page }) => {
  await page.goto('/set-up')
  await page.getByRole('link', { name: 'Window crate' }).click()
  await page.getByRole('link', { name: 'Duplicate it' }).click()
  await expect(page.getByLabel('Name of the system')).toHaveValue('Window crate (copy)')
  await page.getByText('What it has, and its methods (prefilled)').click()
  await page.getByLabel('Days between changes').fill('900')
  await page.getByText('What it has, and its methods (prefilled)').click()
  await expect(page.getByLabel('Days between changes')).toBeHidden()
  await page.getByRole('button', { name: 'Set up the system' }).click()
  await expect(page.getByLabel('Days between changes')).toBeFocused()
  await page.getByLabel('Days between changes').fill('10')
  await page.getByRole('button', { name: 'Set up the system' }).click()
  await expect(page.getByRole('heading', { name: 'Window crate (copy)' })).toBeVisible()
  await page.goto('/set-up')
  await page.getByRole('button', { name: 'Archive: Window crate (copy)' }).click()
})

test('a wrong volume is refused at its field with what is allowed', async ({ page }) => {
  await page.goto('/set-up')
  await page.getByRole('link', { name: 'Window crate' }).click()
  await unfold(page, 'The system itself')
  const working = page.getByLabel('Working', { exact: true })
  await working.fill('90')
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText(/^Lower the working volume \(up to the maximum, /).first()).toBeVisible()
})

test('what is put away can be taken out again, and a long hostile name is only text', async ({ page }) => {
  await page.goto('/set-up')
  await page.getByRole('button', { name: 'Add a person' }).click()
  const name = '<b onclick=alert(1)>A long name that goes on and on for a while</b>'
  await page.getByRole('dialog').getByLabel('Name').fill(name)
  await page.getByRole('dialog').getByRole('button', { name: 'Add' }).click()
  await expect(page.getByRole('button', { name: `Edit ${name}` })).toBeVisible()
  await page.getByRole('button', { name: `Archive: ${name}` }).click()
  await expect(page.getByRole('button', { name: `Edit ${name}` })).toBeHidden()
  await page.getByLabel('Show what is archived').check()
  await page.getByRole('button', { name: `Bring back: ${name}` }).click()
  await expect(page.getByRole('button', { name: `Archive: ${name}` })).toBeVisible()
  await accessible(page)
})

test('among many systems one is found by name, place or crop', async ({ page }) => {
  const places = await (await page.request.get('/api/places')).json()
  const parent = places[0].card.id
  const body = (n: number) => ({
    card: 'system',
    name: `Bench ${n}`,
    kind: 'tower',
    traits: { circulates: true },
    ports: 12,
    reservoir: { shape: { form: 'stated', litres: 60 }, minimum: 20, working: 50, maximum: 56 },
    measuring: 'recipe_only',
    change_days: 14,
    since: '2026-01-01',
  })
  for (let n = 1; n <= 14; n++) {
    const id = `00000000-0000-7000-8000-0000000000${String(n).padStart(2, '0')}`
    expect((await page.request.post('/api/cards', { data: { id, parent, body: body(n) } })).status()).toBe(201)
  }
  await page.goto('/')
  await expect(page.getByRole('article')).toHaveCount(14)
  await page.getByLabel('Find a system').fill('bench 11')
  await expect(page.getByRole('article')).toHaveCount(1)
  await page.getByLabel('Find a system').fill('pak choi')
  await expect(page.getByRole('article')).toContainText('Window crate')
  await page.getByLabel('Find a system').fill('nothing like it')
  await expect(page.getByText('None of the 15 systems is called that.')).toBeVisible()
})

test('a person edited by someone else meanwhile is not overwritten: both versions are shown', async ({ page }) => {
  await page.goto('/set-up')
  await page.getByRole('button', { name: 'Edit Wren' }).click()
  const places = await (await page.request.get('/api/places')).json()
  const wren = places[0].people.find((p: { body: { name: string } }) => p.body.name === 'Wren')
  const theirs = { version: wren.version, body: { ...wren.body, name: 'Wren T.' } }
  expect((await page.request.put(`/api/cards/${wren.id}`, { data: theirs })).status()).toBe(200)
  const sheet = page.getByRole('dialog')
  await sheet.getByLabel('Name').fill('Wren from the north')
  await sheet.getByRole('button', { name: 'Save' }).click()
  await expect(sheet.getByRole('row').filter({ hasText: 'name' })).toContainText('Wren T.')
  await expect(sheet.getByRole('row').filter({ hasText: 'name' })).toContainText('Wren from the north')
  await accessible(page)
})
