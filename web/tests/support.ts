import { readFileSync } from 'node:fs'
import { expect, test as base, type Locator, type Page, type Request } from '@playwright/test'
import { serve, type Garden, type Served } from './garden'

interface Trial {
  /** What the console may say. */
  allow: RegExp[]
  /** What it begins from. */
  garden: Garden
  /** The program, on a file that nobody else has. */
  served: Served
}

/** A page on which any error in the console, a blocked style or script among them, fails the trial. */
export const test = base.extend<Trial>({
  allow: [[/422 \(Unprocessable|409 \(Conflict|ERR_INTERNET_DISCONNECTED|ERR_FAILED/], { option: true }],
  garden: ['demo', { option: true }],
  served: async ({ garden }, use) => {
    const served = await serve(garden)
    await use(served)
    await served.stop()
  },
  baseURL: ({ served }, use) => use(served.base),
  page: async ({ page, allow }, use, info) => {
    const refused: string[] = []
    page.on(
      'response',
      (answer) => answer.status() >= 400 && refused.push(`${answer.status()} ${asked(answer.request())}`),
    )
    page.on('requestfailed', (request) => refused.push(`${request.failure()?.errorText} ${asked(request)}`))
    const errors: string[] = []
    page.on('console', (message) => {
      // What the checker for accessibility injects has no address of its own.
      if (message.type() === 'error' && message.location().url && !allow.some((fine) => fine.test(message.text())))
        errors.push(message.text())
    })
    page.on('pageerror', (error) => errors.push(error.message))
    countRequests(page)
    calmly(page.locator('html'))
    await use(page)
    if (info.errors.length)
      info.attachments.push({ name: 'refused', contentType: 'text/plain', body: Buffer.from(refused.join('\n')) })
    expect(errors).toEqual([])
  },
})
export { expect }

const asked = (request: Request) => `${request.method()} ${request.url()}`

const underWay = new WeakMap<Page, Set<unknown>>()

function countRequests(page: Page) {
  const asked = new Set<unknown>()
  underWay.set(page, asked)
  page.on('request', (request) => asked.add(request))
  page.on('requestfinished', (request) => asked.delete(request))
  page.on('requestfailed', (request) => asked.delete(request))
}

/** A hand taps what is at rest. A click here is pressed and let go at a place that was found before: what comes in between
 *  and moves the page would take it away from under the finger. What never comes is not waited for. */
function calmly(any: Locator) {
  const kind = Object.getPrototypeOf(any) as Record<'click' | 'check' | 'uncheck', (...how: never[]) => Promise<void>>
  if (calmed.has(kind)) return
  calmed.add(kind)
  for (const what of ['click', 'check', 'uncheck'] as const) {
    const hand = kind[what]
    kind[what] = async function (this: Locator, ...how) {
      const asked = underWay.get(this.page())
      const until = Date.now() + 3_000
      // Another page may be on its way: it is drawn in its own time.
      while (asked?.size && Date.now() < until) await drawn(this.page()).catch(() => {})
      await hand.apply(this, how)
    }
  }
}
const calmed = new WeakSet<object>()

/** Until the page was drawn once more. */
const drawn = (page: Page) =>
  page.evaluate(() => new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn))))

/** Everything that was asked for has come, and is drawn: the answer to one request may be the next request. */
export async function settled(page: Page) {
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  let quiet = 0
  await expect
    .poll(
      async () => {
        await drawn(page)
        quiet = underWay.get(page)!.size ? 0 : quiet + 1
        return quiet
      },
      { intervals: [20] },
    )
    .toBeGreaterThanOrEqual(3)
}

const AXE = readFileSync('node_modules/axe-core/axe.min.js', 'utf8')
const WCAG = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']

/** Holds the page against WCAG 2.2 AA; against single rules of it where all of them were held already. */
export async function accessible(page: Page, rules?: string[]) {
  if (!(await page.evaluate(() => 'axe' in window))) await page.evaluate(AXE)
  const runOnly = rules ? { type: 'rule', values: rules } : { type: 'tag', values: WCAG }
  const found = await page.evaluate(async (runOnly) => {
    const { axe } = window as unknown as { axe: typeof import('axe-core') }
    const options = { runOnly, resultTypes: ['violations'], preload: false } as import('axe-core').RunOptions
    const { violations } = await axe.run(document, options)
    return violations.map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 120)).join(' | ')}`)
  }, runOnly)
  expect(found).toEqual([])
}

export async function systemId(page: Page, name: string): Promise<string> {
  const round = await (await page.request.get('/api/round')).json()
  return round.systems.find((s: { name: string }) => s.name === name).id
}

export async function plantingId(page: Page, system: string, crop: string): Promise<string> {
  const view = await (await page.request.get(`/api/systems/${await systemId(page, system)}`)).json()
  return view.plantings.find((p: { body: { crop: string } }) => p.body.crop === crop).id
}

export async function personId(page: Page, system: string, name: string): Promise<string> {
  const view = await (await page.request.get(`/api/systems/${await systemId(page, system)}`)).json()
  return view.people.find((p: { body: { name: string } }) => p.body.name === name).id
}

/** Takes the newest entry of a system that counts back, as Wren; who that is. */
export async function withdraw(page: Page, system: string): Promise<string> {
  const [id, wren] = [await systemId(page, system), await personId(page, system, 'Wren')]
  const { threads } = await (await page.request.get(`/api/systems/${id}/log`)).json()
  const newest = threads.find((thread: { head: { body: { kind: string } } }) => thread.head.body.kind !== 'withdrawn')
  const data = { id: crypto.randomUUID(), amends: newest.head.id, reason: 'Test', body: { kind: 'withdrawn' } }
  const taken = await page.request.post(`/api/systems/${id}/entries`, { data, headers: { 'Mopsel-Person': wren } })
  expect(taken.status(), await taken.text()).toBe(201)
  return wren
}

/** Says who is recording, whether or not somebody was remembered. */
export async function recordAs(page: Page, who: string, within: Page | Locator = page) {
  const known = within.getByText('Recording:').first()
  await expect(known.or(within.getByText('Who is recording?').first()).first()).toBeVisible()
  if (await within.getByText(`Recording: ${who}`, { exact: true }).count()) return
  const other = within.getByRole('button', { name: 'Someone else' })
  if (await other.count()) await other.first().click()
  await within.getByRole('radio', { name: who }).first().click()
}

/** Opens the visit of a system, step by step, as one of its people. */
export async function openVisit(page: Page, name: string, who = 'Wren') {
  await page.addInitScript(() => localStorage.setItem('mopsel.visit', 'steps'))
  await page.goto(`/system/${await systemId(page, name)}/visit`)
  await recordAs(page, who)
  await expect(page.getByRole('heading', { name: 'Look and listen' })).toBeVisible()
}

/** No part of the page is wider than the screen. */
export async function fits(page: Page) {
  const over = () => page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth)
  // What draws itself does so a moment after it was given another width.
  await expect.poll(over).toBeLessThanOrEqual(0)
}

/** Opens a folded part of the page, if it is closed. */
export async function unfold(page: Page, title: string) {
  const summary = page.locator('summary').filter({ hasText: title })
  await summary.waitFor()
  if (!(await summary.evaluate((of) => (of.parentElement as HTMLDetailsElement).open))) await summary.click()
}

/** Throws the visit away, and says yes to the question. */
export async function dropVisit(page: Page) {
  await page.getByRole('button', { name: 'Throw this visit away' }).click()
  await page.getByRole('button', { name: 'Throw it away' }).click()
  await expect(page.getByRole('alertdialog')).toHaveCount(0)
}

/** Picks one of a long list, as a hand would. */
export async function choose(within: Page | Locator, label: string, name: string | RegExp) {
  const page = 'keyboard' in within ? within : within.page()
  await within.getByRole('combobox', { name: label }).click()
  await page.getByRole('option', { name }).click()
}

/** The pages of a PDF, and how wide the widest text runs: nothing is cut off at the right. */
export async function printed(page: Page, format: 'A4' | 'Letter') {
  const pdf = await page.pdf({ format, margin: { top: '14mm', bottom: '14mm', left: '14mm', right: '14mm' } })
  const inches = format === 'A4' ? 8.27 : 8.5
  await page.emulateMedia({ media: 'print' })
  await page.setViewportSize({ width: Math.floor((inches - 28 / 25.4) * 96), height: 1000 })
  const wide = () =>
    page.evaluate(() => {
      const most = document.documentElement.clientWidth
      return [...document.querySelectorAll('main *')]
        .filter((e) => e.getBoundingClientRect().width > 0 && e.getBoundingClientRect().right > most + 1)
        .map((e) => e.outerHTML.slice(0, 80))
    })
  let over = await wide()
  // What draws itself does so a moment after it was given another width.
  await expect
    .poll(async () => (over = await wide()).length)
    .toBe(0)
    .catch(() => {})
  await page.emulateMedia({ media: null })
  await page.setViewportSize({ width: 1280, height: 800 })
  return { pages: (pdf.toString('latin1').match(/\/Type\s*\/Page[^s]/g) ?? []).length, over }
}
