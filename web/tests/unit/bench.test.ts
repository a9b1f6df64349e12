import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { computed, nextTick } from 'vue'
import { createMemoryHistory, createRouter } from 'vue-router'
import { useBench } from '../../src/bench/useBench'
import { connect, openPage, pass } from './page'
import { seeds } from '../soak'
import { dice, Server, servers } from './server'
import type { Units } from '../../src/api/units'

const JUG = {
  key: 'jug',
  name: 'Jug of feed',
  group: 'Mix ahead',
  fields: [{ key: 'litres', kind: 'volume' as const, label: 'To be mixed' }],
  needs: ['litres'],
  alone: [],
  feeds: true,
  mixes: true,
}
const routed = createRouter({
  history: createMemoryHistory(),
  routes: [{ path: '/bench', component: { render: () => null } }],
})
vi.mock('vue-router', async (original) => ({
  ...(await original<typeof import('vue-router')>()),
  useRoute: () => routed.currentRoute.value,
  useRouter: () => routed,
}))
const litres = { fromVolume: (v: number) => v, fromTemperature: (v: number) => v } as unknown as Units

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'setInterval', 'clearInterval', 'Date'] })
  connect(true)
})
afterEach(() => {
  vi.useRealTimers()
})

test('questions typed on a slow line: the plan in sight is always the one for what stands there', async () => {
  for (const run of seeds('questions', 500, 60)) {
    const roll = dice(run)
    servers.now = new Server(roll, { slow: run % 3 ? 600 : 40, lost: run % 2 ? 0.25 : 0 })
    const page = openPage(() =>
      useBench(
        () => ({ units: litres, scale: 'ms_cm', by: undefined }),
        () => [JUG],
        { planned: 40 },
      ),
    )
    const bench = page.held
    const wanted = computed(() => bench.values.value.litres)
    const looked = () => {
      if (bench.plan.value) expect(bench.plan.value.answer).toBe(wanted.value)
    }
    bench.choose('jug')
    for (let turn = 0; turn < 8; turn++) {
      bench.set({ litres: roll() < 0.1 ? null : Math.ceil(roll() * 40) })
      await nextTick()
      looked()
      await pass(roll() * 500, looked)
    }
    bench.set({ litres: 33 })
    for (let wait = 0; wait < 400 && !bench.plan.value; wait++) await pass(50, looked)
    expect(bench.plan.value?.answer).toBe('33')
    expect(bench.waiting.value).toBe(false)
    page.leave()
    page.kill()
  }
})
