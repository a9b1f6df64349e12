import { accessible, expect, fits, openVisit, systemId, test, recordAs } from './support'

test('a correction once logged is not offered again, and what stands there is shown as about', async ({ page }) => {
  const id = await systemId(page, 'Bean table')
  await page.goto(`/bench?system=${id}&for=correction`)
  await recordAs(page, 'Wren')
  await expect(page.getByRole('heading', { name: /^Stir the feed for/ })).toBeVisible()
  await page.getByRole('button', { name: 'Log what was done' }).click()
  await expect(page.getByText('The next plan starts from what stands there now.')).toBeVisible()
  await page.goto(`/bench?system=${id}&for=correction`)
  await expect(page.getByRole('alert')).toContainText('That cannot be made')
  await page.goto(`/system/${id}`)
  await expect(page.getByRole('region', { name: 'State' })).toContainText(/EC\s*about.*worked out/s)
  const first = page.getByRole('region', { name: 'Log' }).getByRole('listitem').first()
  await first.getByRole('button', { name: 'Amend' }).click()
  await page.getByLabel('What was wrong').fill('Only a trial')
  await page.getByRole('button', { name: 'Withdraw the entry' }).click()
  await expect(page.getByRole('dialog')).toHaveCount(0)
})

test('a large filling is mixed in the vessel, with nothing to carry, and in cans where that is wished', async ({
  page,
}) => {
  const id = await systemId(page, 'Corner tower')
  await page.goto(`/bench?system=${id}&for=fresh_fill`)
  await expect(page.getByText('nothing: by the hose')).toBeVisible()
  await expect(page.getByText(/^Pump on, so that what goes in/)).toBeVisible()
  await page.getByLabel('Mixed', { exact: true }).selectOption('cans')
  await expect(page.getByRole('list', { name: 'Containers to fill' })).toBeVisible()
  await accessible(page)
  await page.setViewportSize({ width: 390, height: 844 })
  await fits(page)
})

test('a level is weighed, and what the empty vessel weighs is remembered', async ({ page }) => {
  await openVisit(page, 'Window crate')
  await page.getByRole('button', { name: /Read the level/ }).click()
  await page.setViewportSize({ width: 390, height: 844 })
  await page.getByRole('button', { name: 'Weigh it instead' }).click()
  await page.getByLabel('Empty it weighs').fill('2.5')
  await page.getByLabel('Vessel and water weigh').fill('12.5')
  await expect(page.getByText('That is 10 L.')).toBeVisible()
  await page.getByLabel('Vessel and water weigh').fill('1')
  await expect(page.getByText(/less than the empty vessel/).first()).toBeVisible()
  await fits(page)
  await accessible(page)
  await page.setViewportSize({ width: 1280, height: 800 })
})

test('a band of one’s own is kept with its system, and refused where its ends are swapped', async ({ page }) => {
  const id = await systemId(page, 'Mat bench')
  await page.goto(`/set-up?system=${id}`)
  await page.getByText('What it has, and its methods').click()
  const wanted = page.getByRole('group', { name: 'EC wanted here' })
  await wanted.getByLabel('From').fill('900')
  await wanted.getByLabel('To').fill('700')
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(wanted.getByText(/Swap the two ends/)).toBeVisible()
  await wanted.getByLabel('To').fill('1200')
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('Saved.')).toBeVisible()
  await page.goto(`/system/${id}`)
  await expect(page.getByText('band 900–1200', { exact: false }).first()).toBeVisible()
  await page.goto(`/set-up?system=${id}`)
  await page.getByText('What it has, and its methods').click()
  await expect(wanted.getByLabel('From')).toHaveValue('900')
  await wanted.getByLabel('From').fill('')
  await wanted.getByLabel('To').fill('')
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('Saved.')).toBeVisible()
})

test('a vessel keeps its size when it is saved on a slow line, before the units had come', async ({ page }) => {
  const id = await systemId(page, 'Mat bench')
  const vessel = async () => {
    const places = await (await page.request.get('/api/places')).json()
    const systems = places.flatMap(
      (place: { systems: { id: string; body: { reservoir: unknown } }[] }) => place.systems,
    )
    return systems.find((one: { id: string }) => one.id === id).body.reservoir
  }
  const before = await vessel()
  let come = () => {}
  const late = new Promise<void>((resolve) => (come = resolve))
  await page.route('**/api/knowledge', async (route) => {
    await late
    await route.continue()
  })
  // It may come before the page has finished loading.
  const places = page.waitForResponse('**/api/places')
  await page.goto(`/set-up?system=${id}`)
  await places
  come()
  await page.getByText('What it has, and its methods').click()
  await page.getByLabel('Note').last().fill('Looked over')
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText('Saved.')).toBeVisible()
  expect(await vessel()).toEqual(before)
})

test('a vessel that would spill when the pump stops is refused at its maximum', async ({ page }) => {
  const id = await systemId(page, 'Loft rails')
  await page.goto(`/set-up?system=${id}`)
  await page.getByText('What it has, and its methods').click()
  await page.getByLabel('Runs back when the pump stops').fill('30')
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(page.getByText(/what is in the pipes runs back and would spill/).first()).toBeVisible()
})

test('what the label holds is kept with a product', async ({ page }) => {
  await page.goto('/set-up')
  await page.getByRole('button', { name: 'Add a product' }).click()
  const sheet = page.getByRole('dialog')
  await sheet.getByLabel('What the label says').fill('Root friend')
  await sheet.getByLabel('How much').fill('2')
  await sheet.getByText('What else the label says').click()
  await sheet.getByLabel('Calcium', { exact: true }).fill('4')
  await sheet.getByLabel(/Holds living inoculants/).check()
  await accessible(page)
  await sheet.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(sheet).toHaveCount(0)
  await page
    .getByRole('button', { name: /Root friend/ })
    .first()
    .click()
  await page.getByRole('dialog').getByText('What else the label says').waitFor()
  await expect(page.getByRole('dialog').getByLabel('Calcium', { exact: true })).toHaveValue('4')
  await expect(page.getByRole('dialog').getByLabel(/Holds living inoculants/)).toBeChecked()
})
