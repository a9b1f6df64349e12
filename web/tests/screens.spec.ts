import type { Page } from '@playwright/test'
import { accessible, expect, fits, plantingId, recordAs, settled, systemId, test } from './support'

/** Every screen with what stands on it in the demo. */
async function screens(page: Page): Promise<string[]> {
  const id = (name: string) => systemId(page, name)
  const [tote, rails, tower, jars] = [
    await id('Propagation tote'),
    await id('Loft rails'),
    await id('Corner tower'),
    await id('Shelf jars (4)'),
  ]
  const { systems } = await (await page.request.get('/api/round')).json()
  return [
    '/',
    `/here/${systems[0].place}`,
    '/set-up',
    `/cover/${systems.find((s: { name: string }) => s.name === 'Corner tower').place}`,
    `/weeks/${systems.find((s: { name: string }) => s.name === 'Bean table').place}?days=28`,
    `/class/${systems.find((s: { name: string }) => s.name === 'Blue raft').place}`,
    '/outing',
    '/log',
    '/data',
    '/data/readings',
    `/trends/${tower}`,
    `/compare?of=system:${tower},system:${rails},cycles:${tower}`,
    '/labels',
    '/notices',
    '/edits',
    '/people',
    `/system/${tote}`,
    `/system/${jars}`,
    `/system/${rails}/visit`,
    `/system/${tower}/visit`,
    `/system/${tower}/visit?step=jobs`,
    `/planting/${await plantingId(page, 'Blue raft', 'Swiss chard')}`,
    `/system/${tote}/change?as=treat`,
    `/set-up?system=${tower}`,
    `/set-up?like=${jars}`,
    ...['top_off', 'change', 'fresh_fill', 'correction', 'ph', 'jug', 'peroxide_dose', 'root_bath', 'dilution'].map(
      (purpose) => `/bench?for=${purpose}&system=${rails}`,
    ),
  ]
}

/** What is pressed and is lower or narrower than a fingertip; links that stand in a sentence are left out. */
const small = (page: Page) =>
  page.evaluate(() => {
    const seen = (e: Element) => {
      const { width, height } = e.getBoundingClientRect()
      const style = getComputedStyle(e)
      return width > 0 && height > 0 && style.visibility !== 'hidden' && style.opacity !== '0'
    }
    return [...document.querySelectorAll('a[href], button, input, select, summary')]
      .filter((e) => seen(e) && !e.matches('.skip, :disabled') && !e.closest('p:not([class])'))
      .filter((e) => !e.closest('details:not([open]) > :not(summary)'))
      .filter((e) => (e.closest('label') ?? e).getBoundingClientRect().height < 43.5)
      .map(
        (e) =>
          `${e.tagName} ${(e.textContent || e.getAttribute('aria-label') || '').trim().slice(0, 40)} ${e.parentElement?.outerHTML.slice(0, 160)}`,
      )
  })

/** Opens each screen once at a size, and looks. */
async function walk(page: Page, paths: string[], look: (path: string) => Promise<void>) {
  for (const path of paths) {
    await page.goto(path)
    await settled(page)
    await look(path)
  }
}

test('at 320 px no screen scrolls sideways, and everything that is pressed is 44 px high', async ({ page }) => {
  await page.setViewportSize({ width: 320, height: 700 })
  await walk(page, await screens(page), async (path) => {
    await fits(page)
    expect(await small(page), path).toEqual([])
  })
})

for (const half of ['first', 'second'] as const)
  test(`every screen is accessible on a phone, light and dark, ${half} half`, async ({ page }) => {
    await page.setViewportSize({ width: 390, height: 844 })
    const all = await screens(page)
    const mine = all.filter((_, n) => n % 2 === (half === 'first' ? 0 : 1))
    await walk(page, mine, async () => {
      // What sticks to the bottom covers a field only until it is scrolled to.
      await page.evaluate(() => {
        const unstuck = new CSSStyleSheet()
        unstuck.replaceSync('.foot, .turn, .below { position: static !important }')
        document.adoptedStyleSheets.push(unstuck)
      })
      await accessible(page)
      // In the dark nothing but the colours differs.
      await page.emulateMedia({ colorScheme: 'dark' })
      await accessible(page, ['color-contrast'])
      await page.emulateMedia({ colorScheme: 'light' })
    })
  })

test('at 200 % every screen still fits, and is accessible', async ({ page }) => {
  // 1280 × 800 at twice the size.
  await page.setViewportSize({ width: 640, height: 400 })
  await walk(page, (await screens(page)).slice(0, 11), async () => {
    await fits(page)
    await accessible(page)
  })
})

test('sheets open with the focus in their first field, are accessible, and give it back', async ({ page }) => {
  for (const scheme of ['light', 'dark'] as const) {
    await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' })
    await page.goto('/set-up')
    for (const name of ['Add a person', 'Add a meter', 'Add a place']) {
      await page.getByRole('button', { name }).first().click()
      await expect(page.getByRole('dialog').locator('input').first()).toBeFocused()
      await accessible(page)
      await page.keyboard.press('Escape')
      await expect(page.getByRole('dialog')).toHaveCount(0)
    }
    await page.goto(`/system/${await systemId(page, 'Window crate')}`)
    await recordAs(page, 'Wren')
    await page.getByRole('button', { name: 'Amend' }).first().click()
    await expect(page.getByRole('dialog').locator('input').first()).toBeFocused()
    await accessible(page)
    await page.keyboard.press('Escape')
    await page.goto(`/system/${await systemId(page, 'Window crate')}/visit?step=close`)
    await page.getByLabel('Anything else worth knowing').fill('x')
    await page.getByRole('button', { name: 'Throw this visit away' }).click()
    await expect(page.getByRole('alertdialog')).toBeVisible()
    await accessible(page)
    await page.getByRole('button', { name: 'Throw it away' }).click()
    await expect(page.getByRole('alertdialog')).toHaveCount(0)
  }
})

test('a sheet with something typed asks before it closes', async ({ page }) => {
  await page.goto('/set-up')
  await page.getByRole('button', { name: 'Add a person' }).first().click()
  await page.getByRole('dialog').getByLabel('Name').fill('Ode')
  await page.keyboard.press('Escape')
  const asked = page.getByRole('alertdialog')
  await expect(asked).toContainText('What was typed here is not kept.')
  await asked.getByRole('button', { name: 'Go on typing' }).click()
  await expect(page.getByRole('dialog').getByLabel('Name')).toHaveValue('Ode')
  await page.keyboard.press('Escape')
  await asked.getByRole('button', { name: 'Close it' }).click()
  await expect(page.getByRole('dialog')).toHaveCount(0)
})

test('on a low screen a step begins at its top', async ({ page }) => {
  await page.setViewportSize({ width: 640, height: 400 })
  await page.goto(`/system/${await systemId(page, 'Corner tower')}/change`)
  await recordAs(page, 'Wren')
  await page.getByRole('button', { name: 'Begin the change' }).click()
  await page.getByRole('button', { name: 'Done' }).click()
  const heading = page.getByRole('heading', { level: 2 })
  await expect(heading).toContainText('Unplug it')
  await expect.poll(async () => (await heading.boundingBox())!.y).toBeLessThan(120)
})

test('single keys can be switched off, and their sheet stays a key away', async ({ page }) => {
  await page.goto('/bench')
  await page.keyboard.press('o')
  await expect(page).toHaveURL(/\/$/)
  await page.keyboard.press('?')
  const sheet = page.getByRole('dialog', { name: 'Keys' })
  await accessible(page)
  await sheet.getByLabel(/Single keys/).uncheck()
  await page.keyboard.press('Escape')
  await expect(sheet).toHaveCount(0)
  await page.keyboard.press('m')
  await page.keyboard.press('?')
  await expect(sheet).toBeVisible()
  await expect(page).toHaveURL(/\/$/)
})
