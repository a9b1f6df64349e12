import { accessible, expect, fits, systemId, test } from './support'

test.describe.configure({ mode: 'serial' })

test('a change is guided step by step, left, taken up elsewhere, and ends in one entry', async ({ page, browser }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  const id = await systemId(page, 'Bean table')
  await page.goto(`/system/${id}/change`)
  await page.getByRole('radio', { name: 'Wren' }).click()
  await expect(page.getByText(/\d+ steps/)).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: 'Begin the change' }).click()
  await expect(page.getByRole('heading', { name: 'Prepare the fresh batch' })).toBeVisible()
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
  await expect(page.getByRole('heading', { name: /Power off at the plug/ })).toBeVisible()
  await expect(page.getByText('Unplug before hands go in')).toBeVisible()

  const elsewhere = await (await browser.newContext()).newPage()
  await elsewhere.goto('/')
  await elsewhere.getByRole('link', { name: 'Change under way' }).click()
  await elsewhere.getByRole('radio', { name: 'Wren' }).click()
  await expect(elsewhere.getByRole('heading', { name: /Power off at the plug/ })).toBeVisible()
  await elsewhere.context().close()

  await page.reload()
  for (let i = 0; i < 20; i++) {
    const heading = await page.getByRole('heading', { level: 2 }).innerText()
    if (heading === 'Power on, and see all of it run') break
    await page.getByRole('button', { name: 'Done' }).click()
    await expect(page.getByRole('heading', { level: 2 })).not.toHaveText(heading)
  }
  await page.getByRole('button', { name: 'Leave out' }).click()
  await page.getByLabel(/Why it is left out/).fill('The pump is away for repair.')
  await page.getByRole('button', { name: 'Leave it out' }).click()
  for (const heading of ['Close the lid', 'Let it mix', 'Measure']) {
    await expect(page.getByRole('heading', { level: 2 })).toHaveText(heading)
    if (heading === 'Measure') break
    await page.getByRole('button', { name: 'Done' }).click()
  }
  await expect(page.getByRole('button', { name: 'Done' })).toBeDisabled()
  await page.getByLabel('Water in the vessel').fill('19')
  await page.getByRole('button', { name: 'Done' }).click()
  await expect(page.getByRole('heading', { name: 'All steps are done' })).toBeVisible()
  await page.getByRole('button', { name: 'Close the change' }).click()
  await expect(page.getByText('The change is in the log')).toBeVisible()
  await expect(page.getByText('The pump is away for repair')).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByText('Taken back')).toBeVisible()
})

test('sanitisers that must not meet are refused as they are picked, and a change can be given up', async ({ page }) => {
  const id = await systemId(page, 'Corner tower')
  await page.goto(`/system/${id}/change`)
  await page.getByRole('radio', { name: 'Wren' }).click()
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
  await page.getByRole('button', { name: 'Give this change up' }).click()
  await expect(page.getByRole('button', { name: 'Begin the change' })).toBeVisible()
})

test('a child does not lead a change', async ({ page }) => {
  const id = await systemId(page, 'Blue raft')
  await page.goto(`/system/${id}/change`)
  await page.getByRole('radio', { name: 'M. K.' }).click()
  await expect(page.getByText('an adult leads it')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Begin the change' })).toHaveCount(0)
})
