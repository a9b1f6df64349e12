import { accessible, expect, fits, recordAs, test } from './support'

async function weeksOf(page: import('@playwright/test').Page, system: string) {
  const round = await (await page.request.get('/api/round')).json()
  const place = round.systems.find((s: { name: string }) => s.name === system).place
  await page.goto(`/weeks/${place}`)
  await recordAs(page, 'Wren')
}
const change = (page: import('@playwright/test').Page) =>
  page.getByRole('button', { name: /^Change the reservoir, .*can wait until/ })

test('a task is moved along its strip by the keys, within its margin and not past it', async ({ page }) => {
  await weeksOf(page, 'Blue raft')
  await accessible(page)
  const mark = change(page)
  await expect(mark).toHaveAccessibleName('Change the reservoir, Wed 10 Mar, can wait until Sun 14 Mar')
  await mark.focus()
  for (let n = 0; n < 5; n++) await page.keyboard.press('ArrowRight')
  await expect(page.getByText(/Mon 15 Mar is past its margin, which ends Sun 14 Mar: it costs plants/)).toBeVisible()
  await page.keyboard.press('Enter')
  await expect(page.getByText(/stays where it is/)).toBeVisible()
  await mark.focus()
  await page.keyboard.press('ArrowRight')
  await expect(page.getByText(/Thu 11 Mar, within its margin, which ends Sun 14 Mar/)).toBeVisible()
  await page.keyboard.press('Enter')
  await expect(change(page)).toHaveAccessibleName('Change the reservoir, Thu 11 Mar, can wait until Sun 14 Mar')
})

test('a task is dragged to another day, and to a closed one it is not', async ({ page }) => {
  await weeksOf(page, 'Blue raft')
  const to = async (day: string) => {
    const [from, there] = [
      (await change(page).boundingBox())!,
      (await page.locator(`[data-day="${day}"]`).boundingBox())!,
    ]
    await page.mouse.move(from.x + from.width / 2, from.y + 8)
    await page.mouse.down()
    await page.mouse.move(there.x + there.width / 2, from.y + 8, { steps: 6 })
    await page.mouse.up()
  }
  await to('2027-03-13')
  await expect(page.getByText(/Sat 13 Mar is a closed day/)).toBeVisible()
  await to('2027-03-12')
  await expect(change(page)).toHaveAccessibleName('Change the reservoir, Fri 12 Mar, can wait until Sun 14 Mar')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(change(page)).toHaveAccessibleName('Change the reservoir, Wed 10 Mar, can wait until Sun 14 Mar')
})

test('on a phone the weeks are read day by day, and a term shows its holidays and its heavy jobs', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 })
  await weeksOf(page, 'Corner tower')
  await fits(page)
  await expect(page.getByRole('heading', { name: /Sat 13 Mar to .* closed/ })).toBeVisible()
  // What was done before in this run is not to be moved any more: any other job is.
  await page
    .getByRole('button', { name: /^Move: .* at Corner tower/ })
    .first()
    .click()
  await expect(page.getByRole('dialog', { name: /: not today$/ })).toBeVisible()
  await page.keyboard.press('Escape')
  await page
    .getByRole('radio', { name: 'A term' })
    .or(page.getByRole('button', { name: 'A term' }))
    .click()
  await expect(page.getByRole('row', { name: /Tue 30 Mar/ })).toBeVisible()
  await accessible(page)
  await fits(page)
})

test('a place that is not there leads back to the first one', async ({ page }) => {
  await page.goto('/weeks/0190a000-0000-7000-8000-000000000000')
  await expect(page.getByRole('heading', { name: /Weeks ahead: / })).toBeVisible()
})

test('what a closure would ask for twice is offered once, taken with a tap and given back', async ({ page }) => {
  await weeksOf(page, 'Blue raft')
  const offer = page.getByText(/Change the reservoir at Blue raft falls on tomorrow, and before the closure again/)
  await expect(offer).toBeVisible()
  await page.getByRole('button', { name: 'Move it to Fri 12 Mar' }).click()
  await expect(change(page)).toHaveAccessibleName('Change the reservoir, Fri 12 Mar, can wait until Sun 14 Mar')
  await expect(offer).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(offer).toBeVisible()
})
