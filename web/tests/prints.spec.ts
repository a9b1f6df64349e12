import { accessible, dropVisit, expect, fits, openVisit, printed, recordAs, systemId, test } from './support'

test('a visit sheet carries what is due here, and no amount that would be of another day', async ({ page }) => {
  const id = await systemId(page, 'Corner tower')
  await page.goto(`/system/${id}`)
  await page.getByRole('link', { name: 'A sheet to write on at the tank' }).click()
  await recordAs(page, 'Wren')
  const due = page.getByRole('region', { name: 'What is due' })
  await expect(due.getByText('Bring the pH down')).toBeVisible()
  await expect(due.getByText('the bench says')).toBeVisible()
  await expect(due.getByText(/\d mL/)).toHaveCount(0)
  await expect(due.getByText('Wipe seams and joints')).toBeVisible()
  await expect(page.getByText('wanted 5.5–6.5')).toBeVisible()
  await expect(page.getByText('EC', { exact: true }), 'it is cared for with a drop kit').toHaveCount(0)
  await accessible(page)
  for (const format of ['A4', 'Letter'] as const) {
    const { pages, over } = await printed(page, format)
    expect(over, format).toEqual([])
    expect(pages, format).toBeLessThanOrEqual(2)
  }
  await page.setViewportSize({ width: 320, height: 700 })
  await fits(page)
})

test('a child’s visit sheet has no step at mains or bottles', async ({ page }) => {
  await page.goto(`/sheet/${await systemId(page, 'Corner tower')}`)
  await recordAs(page, 'J. T.')
  await expect(page.getByText('See where white crust has grown')).toBeVisible()
  await expect(page.getByText('Bring the pH down')).toHaveCount(0)
  await expect(page.getByText('rub off')).toHaveCount(0)
})

test('a plan of the bench is printed whole on A4 and Letter', async ({ page }) => {
  const id = await systemId(page, 'Window crate')
  for (const path of ['/bench?for=change&litres=46&heel=4&heel_ec=2.6&ec=1.8', `/bench?for=top_off&system=${id}`]) {
    await page.goto(path)
    await expect(page.getByRole('list', { name: 'Steps' }).getByRole('listitem').first()).toBeVisible()
    for (const format of ['A4', 'Letter'] as const) {
      const { pages, over } = await printed(page, format)
      expect(over, `${path} on ${format}`).toEqual([])
      expect(pages, `${path} on ${format}`).toBeLessThanOrEqual(2)
    }
  }
})

test('a job goes step by step, what was ticked outlives a reload, and the last tick is the job’s', async ({ page }) => {
  await openVisit(page, 'Corner tower')
  await page.getByRole('button', { name: /Other jobs/ }).click()
  const steps = page.getByRole('list', { name: 'Wipe down, step by step' })
  await steps.getByRole('checkbox', { name: /Wipe seams/ }).check()
  await expect(page.getByText('2 steps left.')).toBeVisible()
  await page.reload()
  await expect(steps.getByRole('checkbox', { name: /Wipe seams/ })).toBeChecked()
  await steps.getByRole('checkbox', { name: /Wipe the lid/ }).check()
  await expect(page.getByRole('checkbox', { name: /^Wipe down/ })).not.toBeChecked()
  await steps.getByRole('checkbox', { name: /Wipe the floor/ }).check()
  await expect(page.getByRole('checkbox', { name: /^Wipe down/ })).toBeChecked()
  await accessible(page)
  await page.getByRole('checkbox', { name: /^Wipe down/ }).uncheck()
  await expect(steps.getByRole('checkbox', { name: /Wipe seams/ })).not.toBeChecked()
  await page.getByRole('checkbox', { name: /^Wipe down/ }).check()
  await page.getByRole('button', { name: /Close/ }).first().click()
  await dropVisit(page)
  await page.getByRole('button', { name: /Other jobs/ }).click()
  await expect(steps.getByRole('checkbox', { name: /Wipe seams/ }), 'the next visit begins anew').not.toBeChecked()
})

test('how the roots are looked at stands behind a tap at that step', async ({ page }) => {
  await openVisit(page, 'Corner tower')
  await page.getByRole('button', { name: /Look at the roots/ }).click()
  await page.getByText('How it goes').click()
  await expect(page.getByText('white to cream and separate is sound')).toBeVisible()
})
