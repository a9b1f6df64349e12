import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import type { Visit } from '../../src/api/client'
import { useVisit } from '../../src/visit/useVisit'
import { same } from '../../src/writes/merge'
import { waiting, write } from '../../src/writes/queue'
import { connect, openPage, pass, type Page } from './page'
import { seeds } from '../soak'
import { dice, Server, servers } from './server'

type Held = ReturnType<typeof useVisit>
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

/** No verdict is in sight for a value that stands there no more, and no device is met that is not there. */
function looked(v: Held, alone = true) {
  for (const verdict of v.judgement.value?.verdicts ?? [])
    expect(verdict.finding).toBe(JSON.stringify((v.visit as Record<string, unknown>)[verdict.subject]))
  for (const fault of v.faults.value) expect(fault.field === 'visit.ph' && v.visit.ph).toMatchObject({ value: 15 })
  if (alone) expect(v.other.value).toBeNull()
}

const typed = (roll: () => number): [keyof Visit, unknown] => {
  const kind = roll()
  if (kind < 0.4) return ['ph', { by: 'meter', value: roll() < 0.15 ? 15 : Math.round(40 + roll() * 40) / 10 }]
  if (kind < 0.7) return ['temperature', Math.round(150 + roll() * 100) / 10]
  if (kind < 0.9) return ['note', `n${Math.floor(roll() * 1e6)}`]
  return ['ph', null]
}

test('visits on a connection that is slow, reorders and drops: nothing stale, no false conflict, nothing lost', async () => {
  for (const run of seeds('visits', 500, 40)) {
    const roll = dice(run)
    system = `system-${run}`
    localStorage.clear()
    const server = (servers.now = new Server(roll, { slow: run % 3 ? 600 : 40, lost: run % 2 ? 0.25 : 0 }))
    let page: Page<Held> = visitPage()
    await pass(roll() * 200, () => looked(page.held))
    for (let turn = 0; turn < 12; turn++) {
      const what = roll()
      if (what < 0.08) connect(false)
      else if (what < 0.2) connect(true)
      else if (what < 0.26 && page.held.ready.value) {
        // The page is killed in the middle of whatever it does, and opened again.
        server.reload()
        page.kill()
        page = visitPage()
      } else {
        const [part, value] = typed(roll)
        ;(page.held.visit as Record<string, unknown>)[part] = value
      }
      await nextTick()
      looked(page.held)
      await pass(roll() * 300, () => looked(page.held))
    }
    connect(true)
    for (
      let wait = 0;
      wait < 400 && (page.client.isMutating() || page.held.keeper.value?.unsaved || !page.held.ready.value);
      wait++
    )
      await pass(50, () => looked(page.held))
    await pass(2500, () => looked(page.held))
    for (let wait = 0; wait < 400 && page.held.begun.value && !page.held.fresh.value; wait++) await pass(50)
    const there = server.draft?.doc ?? {}
    expect(same(there, page.held.plain()), `run ${run}: ${JSON.stringify([there, page.held.plain()])}`).toBe(true)
    if (page.held.begun.value) expect(page.held.fresh.value, `run ${run}: judged at last`).toBe(true)
    page.leave()
    page.kill()
  }
})

test('a visit closed in the middle of a save becomes one entry with the last that was typed', async () => {
  for (const run of seeds('visits closed in the middle of a save', 120, 20)) {
    const roll = dice(7000 + run)
    system = `closing-${run}`
    const server = (servers.now = new Server(roll, { slow: 600, lost: run % 2 ? 0.3 : 0 }))
    const page = visitPage()
    for (let turn = 0; turn < 5; turn++) {
      page.held.visit.note = `turn ${turn}`
      await pass(roll() * 300)
    }
    for (let wait = 0; wait < 200 && !page.held.ready.value; wait++) await pass(50)
    await nextTick()
    const keeper = page.held.keeper.value!
    const body = { kind: 'visit' as const, ...page.held.plain() }
    const sending = write(page.client, 'entry', {
      system,
      by: BY,
      entry: { id: keeper.id, body, closes: keeper.version },
    })
    page.held.end()
    for (let wait = 0; wait < 400 && page.client.isMutating(); wait++) await pass(50)
    await sending
    expect(server.entries.size).toBe(1)
    expect([...server.entries.values()][0]!.body).toMatchObject({ note: 'turn 4' })
    expect(server.draft).toBeNull()
    expect(localStorage.length).toBe(0)
    page.leave()
    page.kill()
  }
})

test('what only waits its turn is never called not connected, and what is lost or offline is', async () => {
  system = 'turns'
  const server = (servers.now = new Server(dice(5), { slow: 200, lost: 0 }))
  const page = visitPage()
  await pass(500)
  page.held.visit.note = 'Picked'
  await pass(70)
  const entry = { id: page.held.keeper.value!.id, body: { kind: 'visit' as const, note: 'Picked, all' } }
  // The save of what was typed is under way, the entry behind it.
  expect(page.client.isMutating()).toBe(1)
  const sending = write(page.client, 'entry', { system, by: BY, entry })
  let most = waiting.value
  await pass(800, () => (most = Math.max(most, waiting.value)))
  await sending
  expect([most, server.entries.size]).toEqual([0, 1])
  connect(false)
  void write(page.client, 'entry', { system, by: BY, entry: { ...entry, id: 'later' } })
  await pass(10)
  expect(waiting.value).toBe(1)
  connect(true)
  await pass(800)
  expect([waiting.value, server.entries.size]).toEqual([0, 2])
  page.leave()
  page.kill()
})

test('what was typed just before saving waits for what becomes of the entry', async () => {
  system = 'rests'
  const server = (servers.now = new Server(dice(6), { slow: 40, lost: 0 }))
  const page = visitPage()
  await pass(300)
  const keeper = page.held.keeper.value!
  page.held.visit.note = 'Just before'
  await nextTick()
  keeper.rest()
  await pass(500)
  expect([server.draft, keeper.unsaved]).toEqual([null, true])
  // It was refused: what was typed is kept on the server as ever.
  keeper.changed()
  await pass(500)
  expect([server.draft?.doc, keeper.unsaved]).toEqual([{ note: 'Just before' }, false])
  page.leave()
  page.kill()
})

test('a page with nothing to send does not forget what another page still has', async () => {
  system = 'tabs'
  const server = (servers.now = new Server(dice(11), { slow: 20, lost: 0 }))
  const [first, second] = [visitPage(), visitPage()]
  await pass(200)
  connect(false)
  const body = { kind: 'visit' as const, note: 'From the first tab' }
  void write(first.client, 'entry', { system, by: BY, entry: { id: 'e1', body } })
  await pass(50)
  second.held.visit.temperature = 20
  await pass(300)
  server.reload()
  first.kill()
  second.kill()
  connect(true)
  const third = visitPage()
  await pass(3000)
  expect(server.entries.get('e1')).toMatchObject({ body: { note: 'From the first tab' } })
  expect(server.draft?.doc).toEqual({ temperature: 20 })
  third.leave()
})

test('what was typed and left at once is on the server a moment later', async () => {
  system = 'left'
  const server = (servers.now = new Server(dice(3), { slow: 30, lost: 0 }))
  const page = visitPage()
  await pass(200)
  page.held.visit.note = 'Left the page'
  await nextTick()
  page.leave()
  await pass(500)
  expect(server.draft?.doc).toEqual({ note: 'Left the page' })
})

test('what is typed before the visit was read stands beside what was kept', async () => {
  system = 'early'
  const server = (servers.now = new Server(dice(4), { slow: 600, lost: 0 }))
  server.draft = { id: 'a', version: 3, doc: { temperature: 20, note: 'Yesterday' } }
  const page = visitPage()
  page.held.visit.note = 'Today'
  await pass(4000)
  expect(page.held.plain()).toEqual({ temperature: 20, note: 'Today' })
  expect(server.draft?.doc).toEqual({ temperature: 20, note: 'Today' })
})

test('two devices on different parts are put together; on the same part both are shown and one is chosen', async () => {
  system = 'two'
  const server = (servers.now = new Server(dice(5), { slow: 20, lost: 0 }))
  const page = visitPage()
  await pass(200)
  page.held.visit.temperature = 21
  await pass(500)
  server.draft = { ...server.draft!, version: 9, doc: { ...server.draft!.doc, note: 'From the desk' } }
  page.held.visit.ph = { by: 'meter', value: 6 }
  await pass(800, () => looked(page.held))
  expect(server.draft?.doc).toEqual({ temperature: 21, note: 'From the desk', ph: { by: 'meter', value: 6 } })
  expect(page.held.visit.note).toBe('From the desk')
  server.draft = { ...server.draft!, version: 20, doc: { ...server.draft!.doc, note: 'Desk again' } }
  page.held.visit.note = 'From the phone'
  await pass(800)
  expect(page.held.other.value?.visit.note).toBe('Desk again')
  expect(server.draft?.doc.note).toBe('Desk again')
  page.held.settle(true)
  await pass(800)
  expect(server.draft?.doc.note).toBe('From the phone')
  expect(page.held.other.value).toBeNull()
})

test('a visit that is dropped is gone on the server, and a new one begins', async () => {
  system = 'dropped'
  const server = (servers.now = new Server(dice(6), { slow: 50, lost: 0 }))
  const page = visitPage()
  await pass(300)
  page.held.visit.note = 'Not this one'
  await pass(30)
  const first = page.held.id.value
  void page.held.drop()
  await pass(1500)
  expect(server.draft).toBeNull()
  expect(page.held.plain()).toEqual({})
  expect(page.held.id.value).not.toBe(first)
})
