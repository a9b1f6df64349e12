/** Takes the pictures in docs/screenshots from the demo of one fixed day. */
import { spawn } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { chromium } from 'playwright-core'
import { args, executablePath } from './browser.mjs'

const root = join(dirname(fileURLToPath(import.meta.url)), '../..')
const scratch = mkdtempSync(join(tmpdir(), 'mopsel-shots-'))

function start(...command) {
  const child = spawn(join(root, 'target/debug/mopsel'), [...command, '--port', '0'], {
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  return new Promise((ready) =>
    child.stdout.once('data', (line) => ready({ child, base: String(line).trim().split(' ').at(-1) })),
  )
}

const demo = await start('demo', '--today', '2027-03-09', '--db', join(scratch, 'demo.db'))
const empty = await start('serve', '--db', join(scratch, 'empty.db'))
const browser = await chromium.launch({ executablePath, args })
const round = await (await fetch(`${demo.base}/api/round`)).json()
const system = (name) => `/system/${round.systems.find((s) => s.name === name).id}`

async function shot(
  name,
  base,
  path,
  { width = 1280, height = 800, colorScheme = 'light', touched = false, act, after } = {},
) {
  const context = await browser.newContext({
    viewport: { width, height },
    colorScheme,
    reducedMotion: 'reduce',
    hasTouch: touched,
    isMobile: touched,
    locale: 'en-GB',
    timezoneId: 'Europe/London',
  })
  const page = await context.newPage()
  await page.goto(base + path)
  await page.waitForLoadState('networkidle')
  await act?.(page)
  await page.waitForTimeout(400)
  await page.screenshot({ path: join(root, 'docs/screenshots', `${name}.png`) })
  await after?.(page)
  await context.close()
}
const phone = { width: 390, height: 844 }
/** Says who records, where nobody is remembered yet. */
const pick = (name) => async (page) => {
  const chip = page.getByRole('radio', { name }).first()
  if (await chip.count()) await chip.click()
}

const tower = round.systems.find((s) => s.name === 'Corner tower')
await shot('cover', demo.base, `/cover/${tower.place}`)
const placeOf = (name) => round.systems.find((s) => s.name === name).place
await shot('weeks', demo.base, `/weeks/${placeOf('Bean table')}?days=28`, { height: 900 })
await shot('log', demo.base, '/log?words=root')
await shot('trends', demo.base, `/trends/${system('Bucket row').split('/').at(-1)}`, { height: 1100 })
await shot('outing', demo.base, '/outing', { height: 1000 })
await shot('class', demo.base, `/class/${placeOf('Blue raft')}`, { height: 1100 })
const raft = await (
  await fetch(`${demo.base}/api/systems/${round.systems.find((s) => s.name === 'Blue raft').id}`)
).json()
await shot('story', demo.base, `/planting/${raft.plantings.find((p) => p.body.crop === 'Swiss chard').id}`)
await shot('ailing-phone', demo.base, `${system('Bean table')}/visit?step=look`, {
  ...phone,
  act: async (page) => {
    await pick('Wren')(page)
    await page.getByRole('button', { name: 'Young leaves, tops' }).click()
    await page.getByRole('button', { name: 'youngest leaves yellow' }).click()
    await page.waitForTimeout(1200)
    await page.getByText('Seen:').evaluate((element) => element.scrollIntoView({ block: 'start' }))
  },
})
await shot('round', demo.base, '/')
await shot('round-phone-dark', demo.base, '/', { ...phone, colorScheme: 'dark' })
await shot('system', demo.base, system('Bean table'))
await shot(
  'compare',
  demo.base,
  `/compare?of=${['Corner tower', 'Blue raft', 'Window crate'].map((name) => `system:${system(name).split('/').at(-1)}`)}`,
  { height: 1000 },
)
await shot('visit', demo.base, `${system('Bucket row')}/visit`, {
  act: async (page) => {
    await pick('Wren')(page)
    for (const [label, value] of [
      ['Water in the vessel', '24'],
      ['Water temperature', '70'],
      ['pH', '6.1'],
      ['EC', '1150'],
    ])
      await page.getByLabel(label, { exact: true }).fill(value)
    await page
      .getByText(/^pH 6\.1/)
      .first()
      .waitFor()
  },
})
await shot('visit-phone', demo.base, `${system('Loft rails')}/visit`, {
  ...phone,
  touched: true,
  act: async (page) => {
    await pick('Wren')(page)
    const keys = page.getByRole('group', { name: 'Keys for numbers' })
    for (const number of ['335', '20.5', '6.8']) {
      for (const digit of number)
        await keys.getByRole('button', { name: digit === '.' ? 'Point' : digit, exact: true }).tap()
      if (number !== '6.8') await keys.getByRole('button', { name: 'Next', exact: true }).tap()
    }
    await page
      .getByText(/^pH 6\.8/)
      .first()
      .waitFor()
  },
})
await shot('treatment-phone', demo.base, `${system('Propagation tote')}/change?as=treat`, {
  ...phone,
  act: async (page) => {
    await pick('Wren')(page)
    await page.getByRole('button', { name: 'Begin the change' }).click()
    await page.getByRole('button', { name: 'All steps' }).click()
    await page.getByRole('button', { name: /Bathe the roots/ }).click()
    await page
      .getByText(/mL of Root oxygen/)
      .first()
      .waitFor()
    await page.evaluate(() => window.scrollTo(0, 120))
    await page.waitForTimeout(300)
  },
  after: async (page) => {
    await page.getByRole('button', { name: 'Cancel this change' }).click()
    await page.waitForTimeout(400)
  },
})
await shot('bench', demo.base, `/bench?for=change&system=${system('Propagation tote').split('/').at(-1)}&heel_ec=0.9`, {
  act: pick('Wren'),
})
await shot('change-phone', demo.base, `${system('Propagation tote')}/change`, {
  ...phone,
  act: async (page) => {
    await pick('Wren')(page)
    await page.getByRole('button', { name: 'Begin the change' }).click()
    await page.getByRole('button', { name: 'Done' }).click()
    await page.getByLabel('Tank', { exact: true }).fill('22.8')
    await page.getByLabel('Fresh batch').fill('18.9')
    await page.getByText('let it stand a while longer').waitFor()
  },
})
await shot('set-up', demo.base, '/set-up')
await shot('first-system', empty.base, '/set-up', {
  act: async (page) => {
    await page.getByLabel('Name of the place').fill('Tern Street flat')
    await page.getByLabel('Your name').fill('Wren')
    await page.getByRole('button', { name: 'Set up the place' }).click()
    await page.getByRole('radio', { name: /^Still water/ }).click()
  },
})
await browser.close()
demo.child.kill()
empty.child.kill()
