import { accessible, expect, fits, recordAs, systemId, test } from './support'

test('a task is moved within its margin, stands on its new day, and goes back with one tap', async ({ page }) => {
  const id = await systemId(page, 'Blue raft')
  await page.goto(`/system/${id}`)
  await recordAs(page, 'Wren')
  const due = page.getByRole('region', { name: 'What is due' })
  await due.getByRole('button', { name: 'Change the reservoir: not today' }).click()
  const sheet = page.getByRole('dialog', { name: 'Change the reservoir: not today' })
  await expect(sheet.getByText('It can wait until Sun 14 Mar without harm to the plants.')).toBeVisible()
  await expect(sheet.getByText(/can be moved, not skipped/)).toBeVisible()
  await expect(sheet.getByRole('button', { name: 'Sat 13 Mar' })).toHaveCount(0)
  await accessible(page)
  await sheet.getByLabel('Why, in a few words').fill('Parents’ evening')
  await sheet.getByRole('button', { name: 'Thu 11 Mar' }).click()
  await expect(due.getByText(/Moved to Thu 11 Mar; it was due tomorrow/)).toBeVisible()
  await expect(
    page.getByText('Moved: Change the reservoir, from Wed 10 Mar to Thu 11 Mar (Parents’ evening)'),
  ).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(due.getByText(/Moved to/)).toHaveCount(0)
  await page.getByText(/Kept over four weeks/).click()
  await expect(page.getByRole('row', { name: /Look in/ })).toBeVisible()
  await page.setViewportSize({ width: 320, height: 700 })
  await fits(page)
})

test('on a visit a job is skipped with a reason, in the same entry as what was done', async ({ page }) => {
  const id = await systemId(page, 'Corner tower')
  await page.goto(`/system/${id}/visit?step=jobs`)
  await recordAs(page, 'Wren')
  const job = page
    .getByRole('listitem')
    .filter({ has: page.getByRole('button', { name: /not today/ }) })
    .first()
  const name = (await job.locator('strong').textContent())!
  await job.getByRole('button', { name: `${name}: not today` }).click()
  const sheet = page.getByRole('dialog')
  await sheet.getByRole('button', { name: 'Skip it this time' }).click()
  await expect(sheet.getByText('Say why, in a few words')).toBeVisible()
  await sheet.getByLabel('Why, in a few words').fill('no cloth')
  await sheet.getByRole('button', { name: 'Skip it this time' }).click()
  await expect(page.getByText('Skipped this time')).toBeVisible()
  await page.goto(`/system/${id}/visit?step=close`)
  await page.getByRole('button', { name: 'Save the visit' }).click()
  await expect(page.getByText('The visit is recorded')).toBeVisible()
  await expect(page.getByText(`Skipped: ${name} (no cloth)`)).toBeVisible()
})
