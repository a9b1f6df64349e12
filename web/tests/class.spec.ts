import { accessible, expect, fits, printed, systemId, test } from './support'

async function classOf(page: import('@playwright/test').Page, system: string) {
  const round = await (await page.request.get('/api/round')).json()
  const place = round.systems.find((s: { name: string }) => s.name === system).place
  await page.goto(`/class/${place}`)
  await expect(page.getByRole('heading', { name: /: the week Mon 8 Mar to Sun 14 Mar/ })).toBeVisible()
}

test('the week of a class is shared out, copes with an absence, and prints on A4 and Letter', async ({ page }) => {
  await classOf(page, 'Blue raft')
  const rota = page.getByRole('region', { name: 'Who does what' })
  await expect(
    rota
      .getByRole('row', { name: /M\. K\./ })
      .getByText('Look in')
      .first(),
  ).toBeVisible()
  await accessible(page)
  await rota.getByRole('button', { name: 'M. K. is absent on Wed 10 Mar' }).click()
  await expect(rota.getByRole('row', { name: /Nobody yet/ }).getByText('Look in')).toBeVisible()
  await rota.getByRole('button', { name: 'M. K. is absent on Wed 10 Mar' }).click()
  await expect(rota.getByRole('row', { name: /Nobody yet/ })).toHaveCount(0)
  for (const format of ['A4', 'Letter'] as const) {
    const { pages, over } = await printed(page, format)
    expect(over, format).toEqual([])
    expect(pages).toBeLessThanOrEqual(2)
  }
  await page.setViewportSize({ width: 390, height: 844 })
  await fits(page)
})

test('the paper is typed back in its order, outlives a reload, and says where something is missing', async ({
  page,
}) => {
  await classOf(page, 'Blue raft')
  await page.getByRole('button', { name: 'Type the paper back' }).click()
  const sheet = page.getByRole('region', { name: 'Blue raft' })
  await sheet.getByRole('checkbox', { name: 'Look for pests, 2027-03-08' }).check()
  await sheet.getByLabel('Height of the water, Mon 8 Mar').fill('2x')
  await accessible(page)
  await page.reload()
  await expect(sheet.getByRole('checkbox', { name: 'Look for pests, 2027-03-08' })).toBeChecked()
  const record = page.getByRole('button', { name: 'Record this visit' })
  await record.click()
  await expect(sheet.getByText('Say who did it.')).toBeVisible()
  await sheet.getByLabel('Who, Mon 8 Mar').selectOption({ label: 'M. K.' })
  await record.click()
  await expect(sheet.getByText('One of these is not a number.')).toBeVisible()
  await sheet.getByLabel('Height of the water, Mon 8 Mar').fill('215')
  await record.click()
  await expect(page.getByText('Recorded: one visit.')).toBeVisible()
  await page.goto(`/system/${await systemId(page, 'Blue raft')}`)
  const entry = page.getByRole('listitem').filter({ hasText: 'Mon 8 Mar 2027, 12:00' })
  await expect(entry.getByText('Done: Look for pests')).toBeVisible()
  await expect(entry.getByText(/Level: /)).toBeVisible()
})
