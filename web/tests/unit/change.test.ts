import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import { useChange } from '../../src/change/useChange'
import { same } from '../../src/writes/merge'
import { connect, openPage, pass, type Page } from './page'
import { seeds } from '../soak'
import { dice, Server, servers } from './server'

type Held = ReturnType<typeof useChange>
let system = ''

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'setInterval', 'clearInterval', 'Date'] })
  localStorage.clear()
  connect(true)
})
afterEach(() => {
  vi.useRealTimers()
})

const changePage = () => openPage(() => useChange(ref(system), ref('wren'), { looked: 40, saved: 60 }))

/** What a step says of a value goes with the value; nobody else is met where nobody else is. */
function looked(c: Held) {
  const said = String(c.run.value.volume_after ?? '')
  for (const step of c.guide.value?.steps ?? []) expect(['', said]).toContain(step.finding ?? '')
  expect(c.met.value).toBe('')
}
const quiet = (page: Page<Held>) => !page.client.isMutating() && !page.held.failed.value

test('changes on a connection that is slow, reorders and drops: nothing stale, no false conflict, nothing lost', async () => {
  for (const run of seeds('changes', 500, 40)) {
    const roll = dice(run)
    system = `change-${run}`
    localStorage.clear()
    const server = (servers.now = new Server(roll, { slow: run % 3 ? 600 : 40, lost: run % 2 ? 0.25 : 0 }))
    let page: Page<Held> = changePage()
    await pass(roll() * 300, () => looked(page.held))
    for (let turn = 0; turn < 12; turn++) {
      const what = roll()
      if (what < 0.08) connect(false)
      else if (what < 0.2) connect(true)
      else if (what < 0.26 && page.held.begun.value) {
        server.reload()
        page.kill()
        page = changePage()
      } else if (!page.held.begun.value) void page.held.begin()
      else if (what < 0.4) void page.held.mark('drain')
      else if (what < 0.46) void page.held.unmark('drain')
      else page.held.put({ volume_after: Math.round(roll() * 30) })
      await nextTick()
      looked(page.held)
      await pass(roll() * 300, () => looked(page.held))
    }
    connect(true)
    for (let wait = 0; wait < 400 && page.client.isMutating(); wait++) await pass(50, () => looked(page.held))
    await pass(6000, () => looked(page.held))
    for (let wait = 0; wait < 800 && !(page.held.current.value && quiet(page)); wait++) await pass(50)
    expect(quiet(page), `run ${run}: ${page.held.failed.value}`).toBe(true)
    const mine = JSON.parse(JSON.stringify(page.held.run.value)) as unknown
    if (page.held.begun.value) expect(same(server.run?.doc, mine), `run ${run}`).toBe(true)
    expect(page.held.current.value, `run ${run}: looked at at last`).toBe(true)
    page.leave()
    page.kill()
  }
})

test('a change that is finished in the middle of typing ends with what was typed last, once', async () => {
  for (const run of seeds('changes finished in the middle of typing', 60, 15)) {
    const roll = dice(900 + run)
    system = `finish-${run}`
    const server = (servers.now = new Server(roll, { slow: 600, lost: run % 2 ? 0.25 : 0 }))
    const page = changePage()
    for (let wait = 0; wait < 200 && !page.held.ready.value; wait++) await pass(50)
    void page.held.begin()
    await pass(roll() * 2000)
    page.held.put({ volume_after: 17 })
    await nextTick()
    let entry: unknown
    void page.held.finish().then((made) => (entry = made))
    for (let wait = 0; wait < 800 && !entry; wait++) await pass(50)
    expect(entry, `run ${run}`).toBeTruthy()
    expect(server.entries.size).toBe(1)
    expect([...server.entries.values()][0]!.body).toMatchObject({ volume_after: 17 })
    page.leave()
    await pass(2000)
    expect(server.run, 'it does not begin again').toBeNull()
    page.kill()
  }
})

test('a change given up is gone, and undoing brings back all of it', async () => {
  system = 'given-up'
  const server = (servers.now = new Server(dice(8), { slow: 40, lost: 0 }))
  const page = changePage()
  await pass(500)
  void page.held.begin()
  await pass(500)
  page.held.put({ volume_after: 12 })
  await pass(10)
  let back: (() => Promise<void>) | undefined
  void page.held.drop().then((undo) => (back = undo))
  await pass(1000)
  expect(server.run).toBeNull()
  expect(page.held.begun.value).toBe(false)
  void back!()
  await pass(1000)
  expect(server.run?.doc).toMatchObject({ volume_after: 12 })
  expect(page.held.begun.value).toBe(true)
})

test('what two devices did at one change is put together and said', async () => {
  system = 'together'
  const server = (servers.now = new Server(dice(9), { slow: 40, lost: 0 }))
  const page = changePage()
  await pass(500)
  void page.held.begin()
  await pass(500)
  server.run = { ...server.run!, version: 7, doc: { ...server.run!.doc, heel: 3 } }
  page.held.put({ volume_after: 19 })
  await pass(1000)
  expect(server.run?.doc).toMatchObject({ heel: 3, volume_after: 19 })
  expect(page.held.run.value).toMatchObject({ heel: 3, volume_after: 19 })
  expect(page.held.met.value).toContain('another device')
})
