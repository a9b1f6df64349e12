import type { Locator } from '@playwright/test'
import { accessible, expect, fits, openVisit, recordAs, settled, systemId, test } from './support'

const phone = { viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true }

/** Counts what a hand does besides the digits themselves. */
function hand() {
  let taps = 0
  return {
    tap: async (on: Locator) => {
      taps += 1
      await on.tap()
    },
    besides: () => taps,
    count: (more: number) => (taps += more),
  }
}

test.describe('on a phone that is touched', () => {
  test.use(phone)

  test('four readings take four numbers and few taps, and the next system is one tap on', async ({ page }) => {
    const id = await systemId(page, 'Loft rails')
    await page.goto(`/system/${id}`)
    await recordAs(page, 'Wren')
    const { tap, besides } = hand()
    const keys = page.getByRole('group', { name: 'Keys for numbers' })
    const digits = async (text: string) => {
      for (const digit of text)
        await keys.getByRole('button', { name: digit === '.' ? 'Point' : digit, exact: true }).tap()
    }
    await tap(page.getByRole('link', { name: 'Start a visit' }))
    await expect(page.getByLabel('Height of the water')).toBeFocused()
    await expect(page.getByText(/^Likely about|^Likely \d/).first()).toBeVisible()
    const next = keys.getByRole('button', { name: 'Next', exact: true })
    await digits('330')
    await tap(next)
    await digits('20.5')
    await tap(next)
    await digits('6.1')
    await tap(next)
    await digits('1.35')
    await expect(page.getByText(/^pH 6\.1/).first()).toBeVisible()
    await expect(page.getByText(/^EC 1\.35 mS\/cm/).first()).toBeVisible()
    await fits(page)
    await accessible(page)
    await tap(page.getByRole('button', { name: /^Save, next: / }))
    console.log(`four readings on a phone: ${besides()} taps besides the digits`)
    expect(besides()).toBeLessThanOrEqual(6)
    await expect(page).toHaveURL(/\/visit$/)
    await expect(page).not.toHaveURL(new RegExp(id))
    await page.getByRole('button', { name: 'Undo' }).tap()
    await expect(page.getByText('Taken back')).toBeVisible()
  })

  test('what was added yesterday is written down in a few taps, on yesterday', async ({ page }) => {
    const id = await systemId(page, 'Window crate')
    const { tap, besides, count } = hand()
    await page.goto('/')
    await tap(page.locator(`a[href="/system/${id}"]`).first())
    await tap(page.getByRole('link', { name: 'Start a visit' }))
    await recordAs(page, 'Wren')
    await tap(page.getByLabel('Water added'))
    await page.getByRole('group', { name: 'Keys for numbers' }).getByRole('button', { name: '2', exact: true }).tap()
    await expect(page.getByText(/of plain water makes/).first()).toBeVisible()
    await page.getByLabel('When it was').selectOption('evening')
    count(2)
    await tap(page.getByRole('button', { name: 'Save', exact: true }))
    console.log(`a top-off of yesterday: ${besides()} taps besides the digits`)
    expect(besides()).toBeLessThanOrEqual(8)
    const log = page.getByRole('region', { name: 'Log' }).getByRole('listitem').first()
    await expect(page).toHaveURL(new RegExp(`/system/${id}$`))
    await expect(page.getByRole('region', { name: 'Log' })).toContainText('Topped off 2.0 L')
    await expect(log).toContainText('Mon 8 Mar 2027, 19:00')
    await page.getByRole('button', { name: 'Undo' }).tap()
    await expect(page.getByText('Taken back')).toBeVisible()
  })

  test('the keys come up below the field that called them, and a tap that closes them is not lost', async ({
    page,
  }) => {
    const id = await systemId(page, 'Corner tower')
    await page.goto(`/system/${id}`)
    await recordAs(page, 'Wren')
    await page.getByRole('link', { name: 'Start a visit' }).tap()
    const keys = page.getByRole('group', { name: 'Keys for numbers' })
    await expect(keys).toBeVisible()
    // The keys are open, and the page stands near its end: the chip that is tapped is the one that is chosen.
    await settled(page)
    const chip = page.getByRole('button', { name: /^6\.0.{1,4}6\.5/ })
    await page.evaluate(() => window.scrollTo(0, document.body.scrollHeight))
    await chip.first().scrollIntoViewIfNeeded()
    const box = (await chip.first().boundingBox())!
    await page.touchscreen.tap(box.x + box.width / 2, box.y + box.height / 2)
    await expect(keys).toHaveCount(0)
    await expect(chip.first()).toHaveAttribute('aria-pressed', 'true')
    // Closed, they come up over the lower half: the field comes above them.
    const added = page.getByLabel('Water added')
    await added.evaluate((field) => field.scrollIntoView({ block: 'end' }))
    await added.tap()
    await expect(keys).toBeVisible()
    await expect
      .poll(async () => {
        const [field, pad] = [await added.boundingBox(), await page.locator('.below.keyed').boundingBox()]
        return field!.y + field!.height <= pad!.y && field!.y >= 0
      })
      .toBe(true)
  })

  test('the keys stay under the hand, whatever comes to be said meanwhile', async ({ page }) => {
    await page.goto(`/system/${await systemId(page, 'Loft rails')}/visit`)
    await recordAs(page, 'Wren')
    const number = (name: RegExp) => page.getByRole('textbox', { name }).first()
    const five = page.getByRole('group', { name: 'Keys for numbers' }).getByRole('button', { name: '5', exact: true })
    await number(/temperature/).tap()
    const stands = async () => (await five.boundingBox())?.y
    const before = await stands()
    await five.tap()
    await expect(page.getByText(/^Water 5\.0 °C/).first()).toBeVisible()
    expect(await stands(), 'a verdict comes').toBe(before)
    await number(/^pH/).tap()
    await five.tap()
    await five.tap()
    await expect(number(/^pH/)).toHaveAttribute('aria-invalid', 'true')
    expect(await stands(), 'a fault comes').toBe(before)
    await page.getByRole('button', { name: 'Save', exact: true }).tap()
    await expect(page.getByText('One value cannot be. Mend it or clear it, then save.')).toBeVisible()
    expect(await stands(), 'it cannot be saved').toBe(before)
    await fits(page)
    await page.getByRole('button', { name: 'Step by step instead' }).tap()
    await page.goto(page.url().replace(/\?.*/, '') + '?step=close')
  })

  test('the steps of a visit are one tap away, and Back goes one step back', async ({ page }) => {
    await openVisit(page, 'Blue raft', 'Wren')
    await page.getByRole('button', { name: 'Next', exact: true }).tap()
    await expect(page.getByRole('heading', { name: 'Read the level' })).toBeVisible()
    await page.getByRole('button', { name: 'All steps' }).tap()
    await page
      .getByRole('navigation', { name: 'Steps of the visit' })
      .getByRole('button', { name: /Look at the roots/ })
      .tap()
    await expect(page.getByRole('heading', { name: 'Look at the roots' })).toBeVisible()
    await page.goBack()
    await expect(page.getByRole('heading', { name: 'Read the level' })).toBeVisible()
    await page.goBack()
    await expect(page.getByRole('heading', { name: 'Look and listen' })).toBeVisible()
  })
})

test('numbers are typed one after the other with Enter, and saved', async ({ page }) => {
  await page.goto(`/system/${await systemId(page, 'Blue raft')}/visit`)
  await recordAs(page, 'Wren')
  await page.getByLabel('Height of the water').or(page.getByLabel('Water in the vessel')).first().focus()
  await page.keyboard.press('Enter')
  await expect(page.getByLabel('Water temperature')).toBeFocused()
  await page.keyboard.type('21.5')
  await expect(page.getByText(/^Water 21\.5 °C/).first()).toBeVisible()
  await page.getByLabel('Water temperature').fill('')
})

test('treating the roots is led like a change: bath, dose, and what follows', async ({ page }) => {
  const id = await systemId(page, 'Propagation tote')
  await page.goto(`/system/${id}/change?as=treat`)
  await recordAs(page, 'Wren')
  await expect(page.getByText('Treatment of the roots')).toBeVisible()
  await expect(page.getByRole('listitem').filter({ hasText: 'Bathe the roots' })).toBeVisible()
  await page.getByRole('button', { name: 'Begin the change' }).click()
  const steps = page.getByRole('navigation', { name: 'Steps of the change' })
  await steps.getByRole('button', { name: /Bathe the roots/ }).click()
  await expect(page.getByText(/mL of Root oxygen 3 % and .* of water, for/)).toBeVisible()
  await expect(page.getByRole('button', { name: /^Start \d+ minutes$/ })).toBeVisible()
  await accessible(page)
  await page.getByRole('button', { name: 'Done' }).click()
  await steps.getByRole('button', { name: /Peroxide into the fresh water/ }).click()
  await expect(page.getByText(/mL of Root oxygen 3 %/).first()).toBeVisible()
  await page.goBack()
  await expect(page.getByRole('heading', { level: 2 })).not.toHaveText('Peroxide into the fresh water')
  await page.getByRole('button', { name: 'Cancel this change' }).click()
  await expect(page.getByRole('button', { name: 'Begin the change' })).toBeVisible()
})

test('advice is set aside with a reason, and can be taken back', async ({ page }) => {
  await page.goto(`/system/${await systemId(page, 'Shelf jars (4)')}`)
  await recordAs(page, 'Wren')
  const found = page.getByRole('region', { name: 'Findings' })
  await settled(page)
  const before = await found.getByRole('button', { name: /^Set aside/ }).count()
  await found
    .getByRole('button', { name: /^Set aside/ })
    .first()
    .click()
  await found.getByRole('button', { name: 'Set aside', exact: true }).click()
  await expect(found.getByRole('alert')).toContainText('Say why')
  await found.getByLabel(/Why it is set aside/).fill('The glass itself is green')
  await found.getByRole('button', { name: 'Set aside', exact: true }).click()
  await expect(page.getByRole('button', { name: /^Set aside: / })).toHaveCount(before - 1)
  await expect(page.getByRole('region', { name: 'Log' })).toContainText('The glass itself is green')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('button', { name: /^Set aside: / })).toHaveCount(before)
})

test('when a wait is over the tab and a notice say so, and its link opens the field that waits', async ({ page }) => {
  const system = await systemId(page, 'Corner tower')
  const id = '01a217aa-43f4-7ab5-9cc8-69a1e735bc5b'
  let left = 900
  await page.route('**/api/timers', (route) =>
    route.fulfill({
      json: [
        {
          id,
          what: 'remeasure',
          label: 'Measure pH',
          system,
          system_name: 'Corner tower',
          seconds: 1200,
          seconds_left: left,
          over_at: new Date(Date.now() + left * 1000).toISOString(),
        },
      ],
    }),
  )
  await page.goto('/set-up')
  await expect(page).toHaveTitle('Set-up · Mopsel')
  await expect(page.getByRole('list', { name: 'Timers' })).toContainText(/1[45]:/)
  left = 0
  await expect(page).toHaveTitle('Over: Measure pH · Set-up · Mopsel')
  await expect(page.getByText('The wait is over: Measure pH (Corner tower).')).toBeVisible()
  const link = page.getByRole('list', { name: 'Timers' }).getByRole('link', { name: 'Corner tower' })
  expect((await link.boundingBox())!.height).toBeGreaterThanOrEqual(44)
  await link.click()
  await expect(page).toHaveURL(new RegExp(`/system/${system}/visit\\?step=measure`))
  await page.reload()
  await expect(page).toHaveTitle(/^Over: Measure pH/)
  await expect(page.getByText('The wait is over')).toHaveCount(0)
})

test('over open root rot nothing is called fine, and it says what to say instead', async ({ page }) => {
  const id = await systemId(page, 'Propagation tote')
  await page.goto(`/system/${id}/visit?step=look`)
  await recordAs(page, 'Wren')
  const fine = page.getByRole('button', { name: 'All fine' })
  await expect(fine).toBeDisabled()
  await expect(fine).toHaveAttribute('title', /Root rot is open here/)
  await page.goto(`/system/${id}`)
  const due = page.getByRole('region', { name: 'What is due' })
  await expect(due.getByRole('link', { name: 'Look in: look' })).toBeVisible()
  await expect(due.getByRole('button', { name: 'Look in: done' })).toHaveCount(0)
})

test('a number that is more likely a slip is asked about once, and saving waits for the answer', async ({ page }) => {
  await page.goto(`/system/${await systemId(page, 'Bucket row')}/visit`)
  await recordAs(page, 'Wren')
  await page.getByRole('textbox', { name: /^EC/ }).first().fill('1.4')
  await expect(page.getByText('is next to nothing').first()).toBeVisible()
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('Say first whether that is so, or mend the number.')).toBeVisible()
  await expect(page.getByRole('heading', { name: 'Numbers' })).toBeVisible()
  await page.getByRole('button', { name: 'Yes, that is right' }).last().click()
  await expect(page.getByText('Say first whether that is so')).toHaveCount(0)
  await expect(page.getByText('is next to nothing')).toHaveCount(0)
})

test('a day and time that cannot be are never taken for now', async ({ page }) => {
  await page.goto(`/system/${await systemId(page, 'Blue raft')}/visit`)
  await recordAs(page, 'Wren')
  await page.getByLabel('Water temperature').fill('21')
  await page.getByLabel('When it was').selectOption('other')
  await page.getByLabel('Time', { exact: true }).fill('23:59')
  await expect(page.getByText('That is still to come')).toBeVisible()
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByText('Say when it was, or choose “Now”.')).toBeVisible()
  await expect(page).toHaveURL(/visit/)
  await page.getByLabel('When it was').selectOption('now')
  await page.getByLabel('Water temperature').fill('')
})

test('a treatment takes all of the water, and goes by how far the roots have gone', async ({ page }) => {
  await page.goto(`/system/${await systemId(page, 'Propagation tote')}/change?as=treat`)
  await recordAs(page, 'Wren')
  await expect(
    page
      .getByRole('button', { name: 'Part of it' })
      .or(page.getByRole('button', { name: /part/i }))
      .first(),
  ).toBeDisabled()
  await page.getByRole('button', { name: 'Begin the change' }).click()
  const steps = page.getByRole('navigation', { name: 'Steps of the change' })
  await steps.getByRole('button', { name: /Drain the old water/ }).click()
  await expect(page.getByText('into no other system')).toBeVisible()
  await steps.getByRole('button', { name: /Look at the roots/ }).click()
  await page
    .getByRole('group', { name: /Brown-black, matted/ })
    .getByRole('button', { name: 'Yes' })
    .click()
  await expect(page.getByText(/Stage 3/)).toBeVisible()
  await steps.getByRole('button', { name: /Bathe the roots/ }).click()
  await expect(page.getByText('no bath brings these roots back')).toBeVisible()
  await page.getByRole('button', { name: 'Cancel this change' }).click()
  await expect(page.getByRole('button', { name: 'Begin the change' })).toBeVisible()
})
