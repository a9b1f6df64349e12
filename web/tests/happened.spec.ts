import {
  accessible,
  choose,
  expect,
  fits,
  openVisit,
  plantingId,
  recordAs,
  settled,
  systemId,
  test,
  withdraw,
} from './support'

const jobs = (page: import('@playwright/test').Page) => page.getByRole('button', { name: /Other jobs/ })

test.describe('on a phone', () => {
  test.use({ viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true })

  test('a harvest is weighed by touch, stands in the log, and in the story of its crop', async ({ page }) => {
    const id = await systemId(page, 'Bucket row')
    await page.goto(`/system/${id}/visit?step=jobs`)
    await recordAs(page, 'Wren')
    const viola = page.getByRole('group', { name: 'Aubergine, ports 1-6' })
    await viola.getByRole('button', { name: 'Picked some' }).tap()
    await page.getByLabel('It weighed').fill('2,5')
    await page.getByLabel('How many').fill('40')
    await fits(page)
    await accessible(page)
    await page.getByRole('button', { name: 'Next' }).tap()
    await page.getByRole('button', { name: 'Save the visit' }).tap()
    await expect(page.getByText('The visit is recorded').first()).toBeVisible()
    // Long Acre reads in US units: ounces were typed, and are told.
    await expect(page.getByText(/Harvested: Aubergine, 2\.50 oz \(70\.9 g\), 40 pieces/)).toBeVisible()
    await page.goto(`/planting/${await plantingId(page, 'Bucket row', 'Aubergine')}`)
    await expect(page.getByText(/Picked once: 2\.50 oz/).first()).toBeVisible()
    await expect(page.getByRole('link', { name: 'Bucket row' })).toBeVisible()
    await accessible(page)
  })
})

test('what was picked whole sets its ports free, and the reset is what is left to do', async ({ page }) => {
  const id = await systemId(page, 'Shelf jars (4)')
  await openVisit(page, 'Shelf jars (4)')
  await jobs(page).click()
  for (const crop of ['Sorrel', 'Chervil'])
    await page
      .getByRole('group', { name: new RegExp(crop) })
      .getByRole('button', { name: 'Picked all of it' })
      .click()
  await expect(page.getByText('Its ports are set free when you save.').first()).toBeVisible()
  await page.getByRole('button', { name: 'Next', exact: true }).click()
  await page.getByRole('button', { name: 'Save the visit' }).click()
  await expect(page.getByText('The visit is recorded').first()).toBeVisible()
  await page.goto(`/system/${id}`)
  const due = page.getByRole('region', { name: 'What is due' })
  await expect(due.getByText('Clean it out for the next crop')).toBeVisible()
  await expect(due.getByText('Look for pests')).toHaveCount(0)
  // Taken back, both stand there again.
  await page.goto(`/system/${id}/visit?step=jobs`)
  await expect(page.getByRole('group', { name: /Sorrel/ })).toHaveCount(0)
  const wren = await withdraw(page, 'Shelf jars (4)')
  for (const crop of ['Sorrel', 'Chervil']) {
    const planting = await plantingId(page, 'Shelf jars (4)', crop)
    const view = await (await page.request.get(`/api/systems/${id}`)).json()
    const card = view.plantings.find((p: { id: string }) => p.id === planting)
    const data = { version: card.version, body: { ...card.body, stage: 'vegetative' }, holds: 'always' }
    const put = await page.request.put(`/api/cards/${planting}`, { data, headers: { 'Mopsel-Person': wren } })
    expect(put.status(), await put.text()).toBe(200)
  }
})

test('undo gives a planting back that was picked whole', async ({ page }) => {
  const id = await systemId(page, 'Window crate')
  await openVisit(page, 'Window crate')
  await jobs(page).click()
  await page
    .getByRole('group', { name: /Mizuna/ })
    .getByRole('button', { name: 'Picked all of it' })
    .click()
  await page.getByRole('button', { name: 'Next', exact: true }).click()
  await page.getByRole('button', { name: 'Save the visit' }).click()
  await expect(page.getByText('The visit is recorded').first()).toBeVisible()
  const stage = async () => {
    const view = await (await page.request.get(`/api/systems/${id}`)).json()
    return view.plantings.find((p: { body: { crop: string } }) => p.body.crop === 'Mizuna').body.stage
  }
  await expect.poll(stage).toBe('done')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByText('Taken back')).toBeVisible()
  await expect.poll(stage).toBe('vegetative')
})

test('a lamp typed too near is said at once, and stays to be set', async ({ page }) => {
  const id = await systemId(page, 'Corner tower')
  await openVisit(page, 'Corner tower')
  await jobs(page).click()
  await page.getByRole('textbox', { name: 'From the lamp to the tallest leaf' }).fill('20')
  await expect(page.getByText('Under a lamp too near the tops bleach and scorch.')).toBeVisible()
  await page.getByLabel('Hours of light a day').fill('30')
  await expect(page.getByText(/Type the hours for which the timer keeps the lamp on/)).toBeVisible()
  await page.getByLabel('Hours of light a day').fill('15')
  await page.getByRole('button', { name: 'Next', exact: true }).click()
  await page.getByRole('button', { name: 'Save the visit' }).click()
  await expect(page.getByText('The visit is recorded').first()).toBeVisible()
  const due = page.getByRole('region', { name: 'What is due' })
  await expect(due.getByText('Set the lamp').first()).toBeVisible()
  await expect(due.getByRole('link', { name: 'Set the lamp' }).first()).toHaveAttribute(
    'href',
    `/system/${id}/visit?step=jobs`,
  )
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByText('Taken back')).toBeVisible()
})

test('tools from an ill system make a suspect, and the ill one is closed off', async ({ page }) => {
  await openVisit(page, 'Loft rails')
  await jobs(page).click()
  await page.getByText('What else happened').click()
  await page.getByRole('button', { name: 'Tools, cups, probes' }).click()
  await choose(page, 'From which', 'Propagation tote')
  await accessible(page)
  await page.getByRole('button', { name: 'Next', exact: true }).click()
  await page.getByRole('button', { name: 'Save the visit' }).click()
  await expect(
    page.getByText(/Tools from Propagation tote came here today, and Propagation tote has Root rot: visit it last/),
  ).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByText('Taken back')).toBeVisible()
  await openVisit(page, 'Propagation tote')
  await jobs(page).click()
  await page.getByText('What else happened').click()
  await page.getByLabel(/Close it off until it is sound/).check()
  await page.getByRole('button', { name: 'Next', exact: true }).click()
  await page.getByRole('button', { name: 'Save the visit' }).click()
  await expect(page.getByText(/Closed off since today\. Root rot is open here: nothing goes out of here/)).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByText('Closed off since today')).toHaveCount(0)
})

test('a case is opened by hand, and what was learnt is kept with it', async ({ page }) => {
  const id = await systemId(page, 'Window crate')
  await page.goto(`/system/${id}`)
  await recordAs(page, 'Wren')
  await page.getByRole('button', { name: 'Open a case' }).click()
  const sheet = page.getByRole('dialog', { name: 'Open a case' })
  await sheet.getByRole('button', { name: 'Open the case' }).click()
  await expect(sheet.getByRole('alert')).toHaveText('Pick what the case is about.')
  await choose(page, 'What it is', 'Light too near')
  await sheet.getByLabel(/In which ports/).fill('1-99')
  await sheet.getByRole('button', { name: 'Open the case' }).click()
  await expect(sheet.getByRole('alert')).toContainText('6')
  await accessible(page)
  await sheet.getByLabel(/In which ports/).fill('1-3')
  await sheet.getByRole('button', { name: 'Open the case' }).click()
  await expect(page.getByText('A case is open').first()).toBeVisible()
  await expect(page.getByRole('article').filter({ hasText: 'Light too near' })).toContainText('Open since today')
  await page.goto(`/system/${id}/visit?step=look`)
  const asked = page.getByRole('group', { name: 'Light too near: how does it stand?' })
  await asked.getByRole('button', { name: 'Gone' }).click()
  await page.getByLabel('What was learnt from it').fill('A hand is nearer than it looks.')
  await page.goto(`/system/${id}/visit?step=close`)
  await page.getByRole('button', { name: 'Save the visit' }).click()
  await expect(page.getByText('The visit is recorded').first()).toBeVisible()
  await page.getByText('One closed case').click()
  await expect(page.getByText('Learnt: A hand is nearer than it looks.', { exact: true })).toBeVisible()
})

test('a rule of one’s own is set up, stands among the tasks, and is done with a tap', async ({ page }) => {
  const id = await systemId(page, 'Bucket row')
  await page.goto(`/system/${id}`)
  await recordAs(page, 'Wren')
  await page.goto(`/set-up?system=${id}`)
  await page.getByText('Rules of your own').click()
  await page.getByRole('button', { name: 'Add a rule' }).click()
  await page.getByLabel('What is done').fill('Trim the roots at the pump')
  await page.getByLabel('How many days').fill('0')
  await page.getByRole('button', { name: 'Save', exact: true }).first().click()
  await expect(page.getByText(/Type how many days, or top-offs, lie between two/).first()).toBeVisible()
  await page.getByLabel('How many days').fill('1')
  await accessible(page)
  await page.getByRole('button', { name: 'Save', exact: true }).first().click()
  await expect(page.getByText('Saved.')).toBeVisible()
  await expect(page.getByText(/Type how many days, or top-offs/)).toHaveCount(0)
  await page.goto(`/system/${id}`)
  const more = page.getByRole('button', { name: /Show all/ })
  await settled(page)
  if (await more.count()) await more.click()
  const due = page.getByRole('region', { name: 'What is due' })
  await due.getByRole('button', { name: 'Trim the roots at the pump: done' }).click()
  await expect(page.getByText('Trim the roots at the pump: done. The next date has moved.')).toBeVisible()
  await expect(page.getByText('Done: Trim the roots at the pump')).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByText('Taken back')).toBeVisible()
  await page.goto(`/set-up?system=${id}`)
  await page.getByRole('button', { name: 'Remove: Trim the roots at the pump' }).click()
  await page.getByRole('button', { name: 'Save', exact: true }).first().click()
  await expect(page.getByText('Saved.')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Remove: Trim the roots at the pump' })).toHaveCount(0)
  await page.goto(`/system/${id}`)
  await expect(page.getByRole('region', { name: 'What is due' })).toBeVisible()
  await expect(page.getByText('Trim the roots at the pump: done')).toHaveCount(0)
})
