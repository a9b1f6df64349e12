/** Signing in, over TLS on the names of the local network: a caretaker at a desk lets a helper in, who comes by phone. */
import { test as alone, type Browser } from '@playwright/test'
import { once } from 'node:events'
import { copyFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { folder, start, TODAY } from './garden'
import { accessible, expect, fits } from './support'

const PASSWORD = 'four words in a row'

/** A served demo that answers others, with the link that makes its first account. */
async function served() {
  const own = folder('door')
  const file = join(own, 'garden.db')
  copyFileSync(process.env.MOPSEL_READY!, file)
  const { child, base } = await start(['demo', '--keep', '--today', TODAY, '--lan', '--db', file])
  let link = ''
  for await (const line of createInterface({ input: child.stdout! })) {
    link = /\/welcome#\S+/.exec(line)?.[0] ?? ''
    if (link) break
  }
  const stop = async () => {
    const ended = once(child, 'exit')
    child.kill('SIGKILL')
    await ended
    rmSync(own, { recursive: true, force: true })
  }
  return { base, link, stop }
}

const opened = async (browser: Browser, width: number, height: number) => {
  const context = await browser.newContext({
    viewport: { width, height },
    ignoreHTTPSErrors: true,
    reducedMotion: 'reduce',
  })
  return context.newPage()
}

alone(
  'a caretaker lets a helper in, who signs in by phone, sees their own place and nothing else',
  async ({ browser }) => {
    const { base, link, stop } = await served()
    try {
      const desk = await opened(browser, 1280, 800)
      await desk.goto(base)
      await expect(desk.getByRole('heading', { name: 'Nobody can sign in yet' })).toBeVisible()
      await accessible(desk)
      await desk.goto(base + link)
      await desk.getByLabel('Your name').fill('Wren')
      await expect(desk.getByLabel('Tern Street flat')).toHaveValue(/./)
      await desk.getByLabel('Choose a password').fill('short')
      await desk.getByRole('button', { name: 'Make the account' }).click()
      await expect(desk.getByRole('alert')).toContainText('Choose at least 10 characters')
      await desk.getByLabel('Choose a password').fill(PASSWORD)
      await accessible(desk)
      await desk.getByRole('button', { name: 'Make the account' }).click()
      await expect(desk.getByRole('link', { name: 'Window crate' }).first()).toBeVisible()

      await desk.getByRole('link', { name: /^Wren: your/ }).click()
      await expect(desk.getByText('looks after everything')).toBeVisible()
      await accessible(desk)
      await desk.getByRole('button', { name: 'Let somebody in' }).click()
      const sheet = desk.getByRole('dialog')
      await sheet.getByLabel('Gullhaven Library, seed loft').selectOption({ label: 'Ansa, helps' })
      await expect(sheet.getByLabel('Signs in as')).toHaveValue('Ansa')
      await accessible(desk)
      await sheet.getByRole('button', { name: 'Let them in' }).click()
      const told = await desk.getByLabel('The link').inputValue()

      // The link names the address that phones use; the trial's browser opens it under the name that it has here.
      const phone = await opened(browser, 390, 844)
      await phone.goto(base + told.slice(told.indexOf('/welcome')))
      await expect(phone.getByText('You help at Gullhaven Library, seed loft.')).toBeVisible()
      await phone.getByLabel('Choose a password').fill('another four words')
      await phone.getByRole('button', { name: 'Show the password' }).click()
      await expect(phone.getByLabel('Choose a password')).toHaveAttribute('type', 'text')
      await fits(phone)
      await accessible(phone)
      await phone.getByRole('button', { name: 'Choose it, and sign in' }).click()
      await expect(phone.getByRole('heading', { name: /9 March/ })).toBeVisible()
      await expect(phone.getByText('Propagation tote').first()).toBeVisible()
      await expect(phone.getByText('Window crate')).toHaveCount(0)
      await expect(phone.getByRole('link', { name: 'Set-up' })).toHaveCount(0)

      // A visit is recorded under their name, without anybody being asked who records.
      await phone.getByRole('link', { name: 'Propagation tote' }).first().click()
      await expect(phone.getByText('Recording: Ansa')).toBeVisible()
      await phone.goto(`${base}/set-up`)
      await expect(phone.getByText('Caretakers set up places and systems.')).toBeVisible()
      await phone.goto(`${base}/people`)
      await expect(phone.getByText('This device')).toBeVisible()
      await fits(phone)
      await accessible(phone)

      // Ended at the desk, the phone is at the door at its next step; what is wrong is said, and the page comes back.
      await desk.getByRole('dialog').getByRole('button', { name: 'Close' }).click()
      await desk.getByRole('button', { name: 'End the account of Ansa' }).click()
      await expect(desk.getByText('Ansa is signed out everywhere')).toBeVisible()
      await phone.getByRole('link', { name: 'Log' }).click()
      await expect(phone.getByRole('heading', { name: 'Sign in' })).toBeVisible()
      await phone.getByLabel('Name', { exact: true }).fill('Ansa')
      await phone.getByLabel('Password', { exact: true }).fill('another four words')
      await phone.getByRole('button', { name: 'Sign in' }).click()
      await expect(phone.getByRole('alert')).toContainText('do not go together')
      await fits(phone)
      await accessible(phone)
      await phone.getByLabel('Name', { exact: true }).fill('wren')
      await phone.getByLabel('Password', { exact: true }).fill(PASSWORD)
      await phone.getByRole('button', { name: 'Sign in' }).click()
      await expect(phone.getByRole('heading', { name: 'Log' })).toBeVisible()
    } finally {
      await stop()
    }
  },
)

alone(
  'what is typed when the session ends is there after signing in again, and is saved under the same name',
  async ({ browser }) => {
    const { base, link, stop } = await served()
    try {
      const page = await opened(browser, 1280, 800)
      await page.addInitScript(() => localStorage.setItem('mopsel.visit', 'steps'))
      await page.goto(base + link)
      await page.getByLabel('Your name').fill('Wren')
      await page.getByLabel('Choose a password').fill(PASSWORD)
      await page.getByRole('button', { name: 'Make the account' }).click()
      await page.getByRole('link', { name: 'Window crate' }).first().click()
      await page.waitForURL(/\/system\//)
      await page.goto(`${page.url()}/visit`)
      await page.getByRole('button', { name: /Measure the water/ }).click()
      await page.context().clearCookies()
      await page.getByLabel('pH', { exact: true }).fill('6.1')
      await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible()
      await page.getByLabel('Name', { exact: true }).fill('Wren')
      await page.getByLabel('Password', { exact: true }).fill(PASSWORD)
      await page.getByRole('button', { name: 'Sign in' }).click()
      await expect(page.getByLabel('pH', { exact: true })).toHaveValue('6.1')
      await expect(page.getByText(/kept on this device/)).toHaveCount(0, { timeout: 60_000 })
      const other = await page.context().newPage()
      await other.goto(page.url())
      await expect(other.getByLabel('pH', { exact: true })).toHaveValue('6.1')
    } finally {
      await stop()
    }
  },
)

alone(
  'a tablet joins a class, a child picks their initials and looks after their room, and sees nothing else',
  async ({ browser }) => {
    const { base, link, stop } = await served()
    try {
      const desk = await opened(browser, 1280, 800)
      await desk.goto(base + link)
      await desk.getByLabel('Your name').fill('Wren')
      await desk.getByLabel('Choose a password').fill(PASSWORD)
      await desk.getByRole('button', { name: 'Make the account' }).click()
      await desk.getByRole('link', { name: /^Wren: your/ }).click()
      await desk.getByRole('button', { name: 'Open a class' }).click()
      const sheet = desk.getByRole('dialog')
      await sheet.getByLabel('Room').selectOption({ label: 'Cobble Row School, room 6' })
      await sheet.getByRole('button', { name: 'Open it' }).click()
      const code = await sheet.locator('.code').innerText()
      expect(code).toMatch(/^[2-9A-Z]{6}$/)
      await accessible(desk)

      const tablet = await opened(browser, 820, 1180)
      await tablet.goto(base)
      await tablet.getByRole('link', { name: 'Join a class with a code' }).click()
      await tablet.getByLabel('The code on the board').fill('ABCDEF')
      await tablet.getByRole('button', { name: 'Join' }).click()
      await expect(tablet.getByRole('alert')).toContainText('Check the code on the board')
      await accessible(tablet)
      await tablet.getByLabel('The code on the board').fill(code.toLowerCase())
      await tablet.getByRole('button', { name: 'Join' }).click()
      await expect(tablet.getByRole('heading', { name: 'Who are you?' })).toBeVisible()
      await expect(tablet.getByRole('link', { name: 'Log' })).toHaveCount(0)
      await tablet.getByRole('radio', { name: 'J. T.' }).click()
      await expect(tablet.getByText(/Look at the plants, listen to the water/)).toBeVisible()
      await accessible(tablet)
      await tablet.getByRole('link', { name: 'Go to Corner tower' }).click()
      await expect(tablet.getByText('Recording: J. T.')).toBeVisible()
      await accessible(tablet)
      for (const page of ['/log', '/set-up', '/data', '/people', '/bench']) {
        await tablet.goto(base + page)
        await expect(tablet.getByRole('heading', { name: 'What will you do?' })).toBeVisible()
      }

      await desk.getByRole('dialog').getByRole('button', { name: 'Close' }).click()
      await desk.getByRole('button', { name: 'End the class in Cobble Row School, room 6' }).click()
      await expect(desk.getByText('Its tablets show nothing more')).toBeVisible()
      await tablet.getByRole('link', { name: 'Go to Corner tower' }).click()
      await expect(tablet.getByRole('heading', { name: 'Sign in' })).toBeVisible()
      await expect(tablet.getByText('Corner tower')).toBeHidden()
    } finally {
      await stop()
    }
  },
)
