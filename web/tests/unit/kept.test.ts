import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import { useChange } from '../../src/change/useChange'
import { useVisit } from '../../src/visit/useVisit'
import { write } from '../../src/writes/queue'
import { seeds } from '../soak'
import { connect, openPage, pass } from './page'
import { dice, Server, servers } from './server'

const BY = 'wren'
let system = ''

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'setInterval', 'clearInterval', 'Date'] })
  localStorage.clear()
  connect(true)
})
afterEach(() => {
  vi.useRealTimers()
})

const visitPage = () => openPage(() => useVisit(ref(system), ref(BY), { judged: 40, saved: 60 }))
/** What was refused and stands on this device. */
const apart = () =>
  Object.keys(localStorage)
    .filter((key) => key.startsWith('mopsel.refused.'))
    .map((key) => localStorage.getItem(key)!)

test('what was kept on the device and is refused later is kept further, whatever was closed meanwhile', async () => {
  for (const run of seeds('refusals', 200, 30)) {
    const roll = dice(run)
    system = `refused-${run}`
    localStorage.clear()
    const server = (servers.now = new Server(roll, { slow: 300, lost: run % 2 ? 0.3 : 0 }))
    let page = visitPage()
    for (let wait = 0; wait < 100 && !page.held.ready.value; wait++) await pass(50)
    connect(roll() < 0.3)
    const notes: string[] = []
    for (let n = 0; n < 3; n++) {
      const note = `note ${run} ${n}`
      notes.push(note)
      const entry = { id: `e-${run}-${n}`, body: { kind: 'visit' as const, note } }
      const amends = roll() < 0.3 ? { amends: 'older', reason: 'misread' } : {}
      write(page.client, 'entry', { system, by: BY, entry: { ...entry, ...amends } }).catch(() => {})
      await pass(roll() * 200)
      if (roll() < 0.4) {
        server.reload()
        page.kill()
        server.shut = roll() < 0.7
        connect(roll() < 0.7)
        page = visitPage()
        await pass(roll() * 400)
      }
    }
    server.shut ||= roll() < 0.5
    connect(true)
    for (let wait = 0; wait < 200 && page.client.isMutating(); wait++) await pass(50)
    const there = JSON.stringify([...server.entries.values()]) + apart().join()
    // What was refused at once, while the page that typed it was there, is told on that page.
    for (const note of notes.filter((note) => !there.includes(note)))
      expect(server.shut, `run ${run}: ${note} is nowhere`).toBe(true)
    page.leave()
    page.kill()
  }
})

test('refused after the tab was closed, it is there with what was typed; sent again and taken, it is gone', async () => {
  system = 'shut'
  const server = (servers.now = new Server(dice(1), { slow: 20, lost: 0 }))
  const first = visitPage()
  await pass(200)
  connect(false)
  const sent = { system, by: BY, entry: { id: 'e1', body: { kind: 'visit' as const, note: 'Wilted' } } }
  void write(first.client, 'entry', sent)
  await pass(50)
  server.reload()
  first.kill()
  server.shut = true
  connect(true)
  const second = visitPage()
  await pass(1000)
  expect(apart().length).toBe(1)
  const kept = JSON.parse(apart()[0]!) as { why: string; write: typeof sent & { entry: { saved: string } } }
  expect([kept.why, kept.write.entry.body.note]).toEqual(['system_put_away', 'Wilted'])
  expect(Date.parse(kept.write.entry.saved)).toBeGreaterThan(0)
  server.shut = false
  const sending = write(second.client, 'entry', kept.write)
  await pass(200)
  await sending
  expect([apart().length, server.entries.has('e1')]).toEqual([0, true])
  second.leave()
})

test('late values of a visit that was saved elsewhere go to a visit of their own', async () => {
  system = 'late'
  const server = (servers.now = new Server(dice(2), { slow: 20, lost: 0 }))
  const page = visitPage()
  await pass(200)
  page.held.visit.note = 'Before'
  await pass(400)
  const first = page.held.id.value
  server.entries.set(first, { id: first, body: { kind: 'visit', ...server.draft!.doc } })
  server.draft = null
  page.held.visit.temperature = 21
  await pass(600)
  expect([page.held.late.value, page.held.plain()]).toEqual(['closed', { temperature: 21 }])
  expect(page.held.id.value).not.toBe(first)
  expect(server.draft).toMatchObject({ id: page.held.id.value, doc: { temperature: 21 } })
  expect(page.held.failed.value).toBe('')
  page.leave()
})

test('late values are there after the tab was closed, and beside another visit they are kept apart', async () => {
  for (const another of [false, true]) {
    system = `later-${another}`
    localStorage.clear()
    connect(true)
    const server = (servers.now = new Server(dice(3), { slow: 20, lost: 0 }))
    const page = visitPage()
    await pass(200)
    page.held.visit.note = 'Before'
    await pass(400)
    connect(false)
    page.held.visit.temperature = 21
    await nextTick()
    await pass(200)
    server.reload()
    page.kill()
    server.entries.set(server.draft!.id, { id: server.draft!.id, body: { kind: 'visit', ...server.draft!.doc } })
    server.draft = another ? { id: 'other', version: 1, doc: { temperature: 18 } } : null
    connect(true)
    const again = visitPage()
    await pass(2000)
    if (another) {
      expect(again.held.plain()).toEqual({ temperature: 18 })
      expect(apart().join()).toContain('"temperature":21')
    } else {
      expect([again.held.late.value, again.held.plain()]).toEqual(['unknown', { temperature: 21 }])
      expect(server.draft).toMatchObject({ doc: { temperature: 21 } })
    }
    again.leave()
    again.kill()
  }
})

test('what was typed in a change that ended elsewhere is kept, also after the tab was closed', async () => {
  system = 'change-late'
  const server = (servers.now = new Server(dice(5), { slow: 20, lost: 0 }))
  const open = () => openPage(() => useChange(ref(system), ref(BY), { looked: 40, saved: 60 }))
  const page = open()
  await pass(300)
  void page.held.begin()
  await pass(500)
  connect(false)
  page.held.put({ volume_after: 19 })
  await nextTick()
  await pass(200)
  server.reload()
  page.kill()
  server.entries.set(server.run!.id, { id: server.run!.id, body: server.run!.doc })
  server.run = null
  connect(true)
  const again = open()
  await pass(2000)
  expect(apart().join()).toContain('"volume_after":19')
  again.leave()
})

test('a visit that was thrown away elsewhere does not come back, and what is typed here is not lost', async () => {
  system = 'thrown'
  const server = (servers.now = new Server(dice(4), { slow: 20, lost: 0 }))
  const page = visitPage()
  await pass(200)
  page.held.visit.note = 'Before'
  await pass(400)
  const first = server.draft!.id
  server.draft = null
  server.gone.add(first)
  page.held.visit.temperature = 21
  await pass(600)
  expect([page.held.late.value, page.held.plain()]).toEqual(['put_away', { note: 'Before', temperature: 21 }])
  expect(server.draft!.id).not.toBe(first)
  page.leave()
})
