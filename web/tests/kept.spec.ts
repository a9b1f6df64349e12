/** What was typed on a device is never dropped: refused later, late on a second device, or dated wrongly. */
import { accessible, expect, fits, openVisit, personId, recordAs, settled, systemId, test } from './support'

const edit = async (page: import('@playwright/test').Page, id: string, by: string, archived: boolean) => {
  const places = await (await page.request.get('/api/places')).json()
  const card = places
    .flatMap((place: { systems: { id: string; version: number }[] }) => place.systems)
    .find((one: { id: string }) => one.id === id)
  const data = { version: card.version, archived }
  const edited = await page.request.put(`/api/cards/${id}`, { data, headers: { 'Mopsel-Person': by } })
  expect(edited.status(), await edited.text()).toBe(200)
}

test('an entry that is refused after the tab was closed is shown with what was typed, and goes into a new visit', async ({
  page,
  context,
}) => {
  await page.setViewportSize({ width: 390, height: 844 })
  const name = 'Reading-room rack'
  const [id, wren] = [await systemId(page, name), await personId(page, name, 'Wren')]
  await openVisit(page, name)
  await page.getByRole('button', { name: 'All numbers on one screen' }).click()
  await context.route(/\/(entries|draft)$/, (route) =>
    route.request().method() === 'GET' ? route.fallback() : route.abort(),
  )
  await page.getByLabel('pH', { exact: true }).fill('6.2')
  await settled(page)
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('kept on this device').first()).toBeVisible()
  await page.close()
  // Meanwhile the system is put away: it takes no entries.
  const again = await context.newPage()
  await edit(again, id, wren, true)
  await context.unroute(/\/(entries|draft)$/)
  await again.setViewportSize({ width: 390, height: 844 })
  await again.goto('/')
  await expect(again.getByText('was not saved')).toBeVisible()
  await again.getByRole('link', { name: 'See why' }).click()
  await expect(again.getByRole('heading', { name: 'Not saved' })).toBeVisible()
  await expect(again.getByRole('listitem').filter({ hasText: 'pH 6.2' })).toBeVisible()
  await fits(again)
  await accessible(again)
  await edit(again, id, wren, false)
  await again.getByRole('button', { name: 'Put it in a new visit' }).click()
  await recordAs(again, 'Wren')
  await expect(again.getByLabel('pH', { exact: true })).toHaveValue('6.2')
  await expect(again.getByText('not saved.')).toHaveCount(0)
  await again.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(again.getByText('The visit is recorded')).toBeVisible()
  const { threads } = await (await again.request.get(`/api/systems/${id}/log`)).json()
  expect(threads[0].head.body.ph).toEqual({ by: 'meter', value: 6.2 })
})

test('what is typed on a second device after the visit was saved on the first is saved as a visit of its own', async ({
  page,
  browser,
}) => {
  const name = 'Loft rails'
  const id = await systemId(page, name)
  await openVisit(page, name)
  await page.getByRole('button', { name: 'All numbers on one screen' }).click()
  const saved = page.waitForResponse((answer) => answer.url().endsWith('/draft') && answer.status() === 200)
  await page.getByLabel('pH', { exact: true }).fill('6.1')
  await saved
  const elsewhere = await (await browser.newContext()).newPage()
  await openVisit(elsewhere, name)
  await elsewhere.getByRole('button', { name: 'All numbers on one screen' }).click()
  await expect(elsewhere.getByLabel('pH', { exact: true })).toHaveValue('6.1')
  await settled(page)
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('The visit is recorded')).toBeVisible()
  await elsewhere.getByLabel('Water temperature').fill('19.5')
  await expect(elsewhere.getByText('This visit was saved on another device.')).toBeVisible()
  await expect(elsewhere.getByLabel('Water temperature')).toHaveValue('19.5')
  await expect(elsewhere.getByLabel('pH', { exact: true })).toHaveValue('')
  await expect(elsewhere.getByRole('button', { name: 'Save', exact: true })).toBeEnabled()
  await elsewhere.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(elsewhere.getByText('The visit is recorded')).toBeVisible()
  const { threads } = await (await page.request.get(`/api/systems/${id}/log`)).json()
  expect(
    threads
      .slice(0, 2)
      .map((one: { head: { body: { ph?: unknown; temperature?: unknown } } }) => [
        one.head.body.ph ?? null,
        one.head.body.temperature ?? null,
      ]),
  ).toEqual([
    [null, 19.5],
    [{ by: 'meter', value: 6.1 }, null],
  ])
  await elsewhere.context().close()
})

test('a change records the feed that its step showed, whatever recipe was chosen meanwhile', async ({ page }) => {
  const name = 'Bean table'
  const [id, wren] = [await systemId(page, name), await personId(page, name, 'Wren')]
  const places = await (await page.request.get('/api/places')).json()
  const card = places
    .flatMap((place: { systems: { id: string; version: number; body: { methods: object } }[] }) => place.systems)
    .find((one: { id: string }) => one.id === id)
  const { recipes } = await (await page.request.get('/api/shelf')).json()
  await page.goto(`/system/${id}/change`)
  await recordAs(page, 'Wren')
  await page.getByRole('button', { name: 'Begin the change' }).click()
  await expect(page.getByText(/^Mix .* gal/)).toBeVisible()
  const before = await page.getByText(/^Mix .* gal/).innerText()
  const other = recipes.find((recipe: { name?: string; recipe?: { name: string } }) =>
    JSON.stringify(recipe).includes('One-part'),
  )
  const body = { ...card.body, methods: { ...card.body.methods, recipe: other.id } }
  const headers = { 'Mopsel-Person': wren }
  const edited = await page.request.put(`/api/cards/${id}`, { data: { version: card.version, body }, headers })
  expect(edited.status(), await edited.text()).toBe(200)
  await page.reload()
  await expect(page.getByText(/^Mix .* gal/)).toBeVisible()
  await unfoldAmounts(page)
  const shown = await page.locator('.batch .field label').allInnerTexts()
  expect(shown.join(), before).toContain('One-part')
  await page.getByRole('button', { name: 'Done' }).click()
  await expect(page.getByLabel('Fresh batch')).toBeVisible()
  await settled(page)
  const { under_way } = await (await page.request.get(`/api/systems/${id}/change`)).json()
  expect(under_way.run.batch.used.map((used: { name: string }) => used.name)).toEqual(shown)
})

/** Unfolds what was used, where it is not open already. */
const unfoldAmounts = (page: import('@playwright/test').Page) =>
  page
    .locator('details')
    .filter({ hasText: /I used different amounts|Enter what you used/ })
    .evaluate((details) => ((details as HTMLDetailsElement).open = true))

test('the wrong product of a change is amended to the right one, with its pH and EC', async ({ page }) => {
  const name = 'Bean table'
  const id = await systemId(page, name)
  const log = async () => (await (await page.request.get(`/api/systems/${id}/log?limit=100`)).json()).threads
  const change = (await log()).find((one: { head: { body: { kind: string } } }) => one.head.body.kind === 'change')
  await page.goto(`/log?system=${id}&sort=change`)
  await settled(page)
  await page.getByRole('button', { name: 'Amend' }).first().click()
  const sheet = page.getByRole('dialog')
  await recordAs(page, 'Wren', sheet)
  await sheet.getByRole('button', { name: 'Add a product' }).click()
  const first = sheet.getByRole('combobox', { name: /^Product/ }).first()
  await first.click()
  await page
    .getByRole('option', { name: /One-part/ })
    .first()
    .click()
  while ((await sheet.getByRole('button', { name: /^Remove / }).count()) > 1)
    await sheet
      .getByRole('button', { name: /^Remove / })
      .last()
      .click()
  await sheet.getByLabel(/^Amount of/).fill('12')
  await sheet.getByLabel('pH', { exact: true }).fill('5.9')
  await sheet.getByLabel('What was wrong').fill('It was the other bottle')
  await accessible(page)
  await sheet.getByRole('button', { name: 'Amend it' }).click()
  await expect(page.getByText('Amended.')).toBeVisible()
  const now = (await log()).find((one: { earlier: { id: string }[] }) => one.earlier[0]?.id === change.head.id)
  expect(now.head.body.batch.used).toHaveLength(1)
  expect(now.head.body.batch.used[0]).toMatchObject({
    name: expect.stringContaining('One-part'),
    amount: { value: 12 },
  })
  expect(now.head.body.ph).toEqual({ by: 'meter', value: 5.9 })
})

test('how a change went is amended: its extent, where the old water went, its sanitiser, a step that was not done', async ({
  page,
}) => {
  const id = await systemId(page, 'Bean table')
  const by = await personId(page, 'Bean table', 'Wren')
  const at = '2027-03-08T17:00:00Z'
  const mark = (left_out?: string) => ({ at, ...(left_out ? { left_out } : {}) })
  const steps = { drain: mark(), sanitise: mark(), rinse_again: mark(), stone: mark(), power_on: mark() }
  const parts = { old_water: 'garden', sanitisers: ['bleach'], steps, tank_temperature: 20, batch_temperature: 19 }
  const volume_after = 60
  const body = { kind: 'change', extent: 'full', volume_after, batch: { fresh: 60, used: [] }, parts }
  const made = await page.request.post(`/api/systems/${id}/entries`, {
    headers: { 'Mopsel-Person': by },
    data: { id: crypto.randomUUID(), at, body },
  })
  expect(made.status(), await made.text()).toBe(201)
  await page.goto(`/log?system=${id}&sort=change`)
  await settled(page)
  await page.getByRole('button', { name: 'Amend' }).first().click()
  const sheet = page.getByRole('dialog')
  await recordAs(page, 'Wren', sheet)
  await sheet.getByLabel('EC of the fresh batch').fill('900')
  await sheet.locator('summary').filter({ hasText: 'How it went' }).click()
  await sheet.getByRole('button', { name: 'A part of it' }).click()
  await sheet.getByRole('button', { name: 'Full reset' }).click()
  await sheet.getByRole('button', { name: 'House drain' }).click()
  await sheet.getByRole('button', { name: 'Vinegar' }).click()
  await sheet.getByLabel('What was wrong').fill('Ticked on the wrong table')
  await accessible(page)
  await sheet.getByRole('button', { name: 'Amend it' }).click()
  await expect(
    sheet
      .getByRole('alert')
      .filter({ hasText: /chlorine/i })
      .first(),
  ).toBeVisible()
  await sheet.getByRole('button', { name: 'Dilute bleach' }).click()
  await sheet.getByRole('checkbox', { name: /air stone/i }).uncheck()
  await sheet.getByLabel('Why it was skipped').fill('No spare one')
  await sheet.getByRole('checkbox', { name: /air stone/i }).focus()
  await sheet.getByRole('button', { name: 'Amend it' }).click()
  await expect(page.getByText('Amended.')).toBeVisible()
  const { threads } = await (await page.request.get(`/api/systems/${id}/log?limit=100`)).json()
  const now = threads.find((one: { earlier: unknown[] }) => one.earlier.length).head.body
  expect(now).toMatchObject({
    extent: 'partial',
    volume_after,
    batch: { fresh: 60, ec: { value: 900, scale: 'ppm500' } },
  })
  expect(now.parts).toMatchObject({
    ...parts,
    reset: true,
    old_water: 'house_drain',
    sanitisers: ['vinegar'],
    steps: { stone: mark('No spare one') },
  })
})

test('a figure on the wrong scale is asked about in a change before it is saved', async ({ page }) => {
  const id = await systemId(page, 'Bean table')
  await page.goto(`/system/${id}/change`)
  await recordAs(page, 'Wren')
  await page.getByRole('button', { name: 'Begin the change' }).click()
  await expect(page.getByRole('heading', { name: 'Mix the fresh batch' })).toBeVisible()
  await page.goto(`/system/${id}/change?step=measure`)
  await expect(page.getByLabel('Water in the vessel')).toBeVisible()
  await page.getByLabel('Water in the vessel').fill('2')
  await expect(page.getByText(/was planned. Is that right/)).toBeVisible()
  await page.getByRole('button', { name: 'Yes, that is right' }).click()
  await expect(page.getByText(/was planned. Is that right/)).toHaveCount(0)
})
