import { accessible, expect, fits, test } from './support'

test.use({ baseURL: process.env.MOPSEL_EMPTY ?? 'http://127.0.0.1:4181' })

test('an empty start leads to the first system in a few steps', async ({ page }) => {
  await page.goto('/')
  await accessible(page)
  await page.getByRole('link', { name: 'Set up the first system' }).click()
  await page.getByLabel('Name of the place').fill('Tern Street flat')
  await page.getByLabel('Your name').fill('Wren')
  await page.getByLabel('Units').selectOption('metric')
  await accessible(page)
  await page.getByRole('button', { name: 'Set up the place' }).click()
  await page.getByRole('radio', { name: /^Still water/ }).click()
  await page.getByLabel('Name of the system').fill('Window crate')
  await page.getByRole('radio', { name: 'Tapered box' }).click()
  for (const [label, value] of [
    ['Length at the rim', '400'],
    ['Width at the rim', '280'],
    ['Length at the floor', '340'],
    ['Width at the floor', '225'],
    ['Inner height', '190'],
  ] as const)
    await page.getByLabel(label).fill(value)
  await expect(page.getByText(/Holds 17\.8 L to the rim/)).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: 'Set up the system' }).click()
  await page.getByLabel('Crop').fill('Pak choi')
  await page.getByRole('button', { name: 'Plant it' }).click()
  await expect(page.getByRole('button', { name: 'Edit Pak choi' })).toBeVisible()
  await page.getByRole('link', { name: 'Round' }).click()
  await expect(page.getByRole('region', { name: 'First: Window crate' })).toContainText('Read the level')
  await page.setViewportSize({ width: 390, height: 844 })
  await fits(page)
})

test('a wrong volume is refused at its field with what is allowed', async ({ page }) => {
  await page.goto('/set-up')
  await page.getByRole('link', { name: 'Window crate' }).click()
  await page.getByText('The system itself').click()
  const working = page.getByLabel('Working', { exact: true })
  if (!(await working.isVisible())) await page.getByText('The system itself').click()
  await working.fill('90')
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText(/Found 90\.0 L; allowed is up to the maximum/).first()).toBeVisible()
})

test('what is put away can be taken out again, and a long hostile name is only text', async ({ page }) => {
  await page.goto('/set-up')
  await page.getByRole('button', { name: 'Add a person' }).click()
  const name = '<b onclick=alert(1)>A long name that goes on and on for a while</b>'
  await page.getByRole('dialog').getByLabel('Name').fill(name)
  await page.getByRole('dialog').getByRole('button', { name: 'Add' }).click()
  await expect(page.getByRole('button', { name: `Edit ${name}` })).toBeVisible()
  await page.getByRole('button', { name: `Put away: ${name}` }).click()
  await expect(page.getByRole('button', { name: `Edit ${name}` })).toBeHidden()
  await page.getByLabel('Show what was put away').check()
  await page.getByRole('button', { name: `Take out again: ${name}` }).click()
  await expect(page.getByRole('button', { name: `Put away: ${name}` })).toBeVisible()
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
