import { accessible, expect, fits, systemId, test, recordAs } from './support'

test('a change is guided step by step, left, taken up elsewhere, and ends in one entry', async ({ page, browser }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  const id = await systemId(page, 'Bean table')
  await page.goto(`/system/${id}/change`)
  await recordAs(page, 'Wren')
  await expect(page.getByText(/\d+ steps/)).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: 'Begin the change' }).click()
  await expect(page.getByRole('heading', { name: 'Mix the fresh batch' })).toBeVisible()
  await expect(page.getByText(/^Mix .* gal/)).toBeVisible()
  await fits(page)
  await page.getByRole('button', { name: 'Done' }).click()
  await page.getByLabel('Tank', { exact: true }).fill('70')
  await page.getByLabel('Fresh batch').fill('58')
  await expect(page.getByText('that is a shock')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Done' })).toBeDisabled()
  await page.getByLabel('Fresh batch').fill('69')
  await expect(page.getByText('apart: right')).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: 'Done' }).click()
  await expect(page.getByRole('heading', { name: /Unplug it/ })).toBeVisible()
  await expect(page.getByText('Unplug before hands go in')).toBeVisible()

  const elsewhere = await (await browser.newContext()).newPage()
  await elsewhere.goto('/')
  const first = elsewhere.getByRole('region', { name: 'First: Bean table' })
  await expect(first.getByRole('heading', { name: 'The change under way' })).toBeVisible()
  await first.getByRole('link', { name: 'Go on with the change' }).click()
  await recordAs(elsewhere, 'Wren')
  await expect(elsewhere.getByRole('heading', { name: /Unplug it/ })).toBeVisible()
  await elsewhere.context().close()

  await page.reload()
  for (let i = 0; i < 20; i++) {
    const heading = await page.getByRole('heading', { level: 2 }).innerText()
    if (heading === 'Plug it in and see all of it run') break
    if (heading === 'Look at the roots') {
      await expect(page.getByRole('button', { name: 'Done' })).toBeDisabled()
      await page.getByRole('button', { name: /White to cream/ }).click()
    }
    await page.getByRole('button', { name: 'Done' }).click()
    await expect(page.getByRole('heading', { level: 2 })).not.toHaveText(heading)
  }
  await page.getByRole('button', { name: 'Skip', exact: true }).click()
  await page.getByLabel(/Why it is skipped/).fill('The pump is away for repair.')
  await page.getByRole('button', { name: 'Skip it' }).click()
  for (const heading of ['Close the lid', 'Let it mix', 'Measure']) {
    await expect(page.getByRole('heading', { level: 2 })).toHaveText(heading)
    if (heading === 'Measure') break
    await page.getByRole('button', { name: 'Done' }).click()
  }
  await expect(page.getByRole('button', { name: 'Done' })).toBeDisabled()
  await page.getByLabel('Water in the vessel').fill('19')
  await page.getByRole('button', { name: 'Done' }).click()
  await expect(page.getByRole('heading', { name: 'All steps are done' })).toBeVisible()
  await page.getByRole('button', { name: 'Save the change' }).click()
  await expect(page.getByText('The change is in the log')).toBeVisible()
  await expect(page.getByText('The pump is away for repair')).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByText('Taken back')).toBeVisible()
})

test('mixed in the tank, the feed goes in after the old water is out and everything was seen running', async ({
  page,
}) => {
  const id = await systemId(page, 'Corner tower')
  await page.goto(`/system/${id}/change`)
  await recordAs(page, 'Wren')
  await expect(page.getByRole('button', { name: 'Mixed in the tank, once it is empty' })).toHaveAttribute(
    'aria-pressed',
    'true',
  )
  const listed = page.getByRole('main').getByRole('listitem')
  await expect(listed.first()).toHaveText('Match the temperatures')
  await page.getByRole('button', { name: 'Mixed in cans, a bin or a barrel' }).click()
  await expect(listed.first()).toHaveText('Mix the fresh batch')
  await page.getByRole('button', { name: 'Mixed in the tank, once it is empty' }).click()
  await expect(listed.first()).toHaveText('Match the temperatures')
  await page.getByRole('button', { name: 'Begin the change' }).click()
  const seen: string[] = []
  const heading = page.getByRole('heading', { level: 2 })
  for (const last = 'Mix the feed in the tank'; ;) {
    await expect(heading).not.toHaveText(seen.at(-1) ?? '')
    seen.push(await heading.innerText())
    if (seen.at(-1) === last) break
    if (seen.at(-1) === 'Look at the roots') await page.getByRole('button', { name: /White to cream/ }).click()
    await page.getByRole('button', { name: 'Done', exact: true }).click()
  }
  expect(seen.indexOf('Drain the old water')).toBeLessThan(seen.indexOf('Fill it with plain water'))
  expect(seen.slice(-3)).toEqual([
    'Fill it with plain water',
    'Plug it in and see all of it run',
    'Mix the feed in the tank',
  ])
  await page.getByText('How to mix it, step by step').click()
  await expect(page.getByText(/by the hose/)).toHaveCount(0)
  await expect(page.getByText('Before it is done: Enter how much pH down you used, or 0.')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Done', exact: true })).toBeDisabled()
  await page.getByLabel('pH down').fill('12')
  await accessible(page)
  await page.getByRole('button', { name: 'Done', exact: true }).click()
  await page.getByRole('button', { name: 'Done', exact: true }).click()
  await page.getByLabel('Water in the vessel').fill('64')
  await page.getByRole('button', { name: 'Done', exact: true }).click()
  await page.getByRole('button', { name: 'Save the change' }).click()
  await expect(page.getByText(/12.0 mL pH down/).first()).toBeVisible()
})

test('sanitisers that must not meet are refused as they are picked, and a change can be given up', async ({ page }) => {
  const id = await systemId(page, 'Corner tower')
  await page.goto(`/system/${id}/change`)
  await recordAs(page, 'Wren')
  await page.getByLabel(/A full reset/).check()
  await page.getByRole('button', { name: 'Begin the change' }).click()
  await page
    .getByRole('navigation', { name: 'Steps of the change' })
    .getByRole('button', { name: /Sanitise/ })
    .click()
  await page.getByRole('button', { name: 'Dilute bleach' }).click()
  await page.getByRole('button', { name: 'Vinegar' }).click()
  await expect(page.getByRole('alert')).toContainText('chlorine gas')
  await expect(page.getByRole('button', { name: 'Done' })).toBeDisabled()
  await accessible(page)
  await page.getByRole('button', { name: 'Vinegar' }).click()
  await expect(page.getByRole('button', { name: 'Done' })).toBeEnabled()
  await page.getByRole('button', { name: 'Cancel this change' }).click()
  await expect(page.getByRole('button', { name: 'Begin the change' })).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('navigation', { name: 'Steps of the change' })).toBeVisible()
})

test('a child does not lead a change', async ({ page }) => {
  const id = await systemId(page, 'Blue raft')
  await page.goto(`/system/${id}/change`)
  await recordAs(page, 'M. K.')
  await expect(page.getByText('an adult leads it')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Begin the change' })).toHaveCount(0)
  await page.reload()
  await expect(page.getByText('an adult leads it')).toBeVisible()
})

test('without a connection the hands go on, and nothing of it is lost', async ({ page, context }) => {
  const id = await systemId(page, 'Corner tower')
  await page.goto(`/system/${id}/change`)
  await recordAs(page, 'Wren')
  const begun = page.waitForResponse((answer) => answer.request().method() === 'PUT' && /\/change/.test(answer.url()))
  await page.getByRole('button', { name: 'Begin the change' }).click()
  await expect(page.getByRole('heading', { name: 'Match the temperatures' })).toBeVisible()
  expect((await begun).ok()).toBe(true)
  await context.setOffline(true)
  await page.getByRole('button', { name: 'Done' }).click()
  await expect(page.getByRole('heading', { name: /Unplug it/ })).toBeVisible()
  await expect(page.getByText('Not connected; kept on this device')).toBeVisible()
  await context.setOffline(false)
  await expect(page.getByText('Not connected; kept on this device')).toHaveCount(0)
  await page.reload()
  await expect(page.getByRole('heading', { name: /Unplug it/ })).toBeVisible()
  await page.getByRole('button', { name: 'Cancel this change' }).click()
  await expect(page.getByRole('button', { name: 'Begin the change' })).toBeVisible()
})
