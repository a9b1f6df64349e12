/** The pages open without a connection, show what was last read and how old it is, and send what was recorded meanwhile. */
import { test as alone } from '@playwright/test'
import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { copyFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { folder, TODAY } from './garden'
import { accessible, expect, fits, recordAs } from './support'

alone.use({ serviceWorkers: 'allow', viewport: { width: 390, height: 844 } })

alone(
  'closed and opened again without a connection, it shows the last round and how old that is; what is recorded arrives',
  async ({ page, context }) => {
    const own = folder('offline')
    const file = join(own, 'garden.db')
    copyFileSync(process.env.MOPSEL_READY!, file)
    let port = '0'
    const begin = async () => {
      const args = ['demo', '--keep', '--today', TODAY, '--db', file, '--port', port]
      const child = spawn(process.env.MOPSEL_BIN!, args, { stdio: ['ignore', 'pipe', 'ignore'] })
      const [line] = (await once(createInterface({ input: child.stdout }), 'line')) as [string]
      const base = line.trim().split(' ').pop()!
      port = new URL(base).port
      const end = async () => {
        const ended = once(child, 'exit')
        child.kill('SIGTERM')
        await ended
      }
      return { base, end }
    }
    let server = await begin()
    try {
      await page.goto(server.base)
      await page.evaluate(() => navigator.serviceWorker.ready.then(() => true))
      // From the second time on the pages come from the device.
      await page.reload()
      await page.evaluate(() =>
        navigator.serviceWorker.controller
          ? true
          : new Promise((done) => navigator.serviceWorker.addEventListener('controllerchange', done)),
      )
      const round = (await (await fetch(`${server.base}/api/round`)).json()) as {
        systems: { id: string; name: string }[]
      }
      const crate = round.systems.find((one) => one.name === 'Window crate')!.id
      const never = round.systems.find((one) => one.name === 'Loft rails')!.id
      await page.getByRole('link', { name: 'Window crate' }).first().click()
      await expect(page.getByRole('heading', { name: 'Window crate' })).toBeVisible()
      await page.goto(`${server.base}/system/${crate}/visit`)
      await recordAs(page, 'Wren')
      await page.goto(server.base)
      await expect(page.getByRole('heading', { name: /9 March/ })).toBeVisible()
      // What the round needs is taken along, also of systems that nobody opened here.
      const taken = (id: string) =>
        page.evaluate(async (path) => !!(await caches.match(path)), `/api/systems/${id}/judging`)
      for (const { id } of round.systems) await expect.poll(() => taken(id)).toBe(true)
      await server.end()
      await page.close()

      const phone = await context.newPage()
      await phone.goto(server.base)
      await expect(phone.getByRole('heading', { name: /9 March/ })).toBeVisible()
      await expect(phone.getByText(/Mopsel does not answer.\s+What you see was read on 9 Mar 2027/)).toBeVisible()
      await fits(phone)
      await accessible(phone)
      await phone.goto(`${server.base}/system/${crate}/visit`)
      await phone.getByLabel('pH', { exact: true }).fill('6.1')
      await phone.getByText('The pH is inside 5.5–6.5.').first().click()
      await expect(phone.getByText(/By what was known on 9 Mar 2027/).first()).toBeVisible()
      await phone.getByRole('button', { name: 'Save', exact: true }).click()
      await expect(phone.getByText('kept on this device').first()).toBeVisible()
      await phone.goto(`${server.base}/system/${never}/visit`)
      await phone.getByLabel('pH', { exact: true }).fill('7.6')
      await phone.getByText('The pH is above 5.5–6.5.').first().click()
      await expect(
        phone.getByText('Do not dose yet. Mopsel works out the dose once you are connected again.').first(),
      ).toBeVisible()
      await expect(phone.getByRole('link', { name: 'Work it out on the bench' })).toHaveCount(0)
      await fits(phone)
      await accessible(phone)
      // The app is closed; much later there is a connection again.
      await phone.close()
      server = await begin()
      const later = await context.newPage()
      await later.goto(server.base)
      await expect(async () => {
        const log = (await (await fetch(`${server.base}/api/systems/${crate}/log`)).json()) as {
          threads: { head: { body: { ph?: { value: number } } } }[]
        }
        expect(log.threads[0]!.head.body.ph?.value).toBe(6.1)
      }).toPass({ timeout: 60_000 })
      await expect(later.getByText(/does not answer/)).toHaveCount(0)
    } finally {
      await server.end().catch(() => {})
      rmSync(own, { recursive: true, force: true })
    }
  },
)
