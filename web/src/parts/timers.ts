/** Waits on the server's clock, read by every device; counted down here between two readings. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import type { RouteLocationRaw } from 'vue-router'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { api, ApiError, ask, newId, type Schemas } from '../api/client'
import { TIMERS, write } from '../writes/queue'
import { notify } from './notice'
import { lastPicked } from './recorder'
import { readAnew } from '../writes/anew'

/** Starts waits; without a connection they are kept, and are so much shorter when they are sent. */
export function useStartTimer() {
  const client = useQueryClient()
  return async (system: string | undefined, wait: Schemas['Wait']): Promise<void> => {
    const timer = {
      id: newId(),
      what: wait.what,
      label: wait.then,
      minutes: wait.minutes,
      ...(system ? { system } : {}),
    }
    try {
      await write(client, 'timer', { system: TIMERS, by: lastPicked.value, begun: Date.now(), timer })
      await readAnew(client, { queryKey: ['timers'] })
    } catch (error) {
      notify(error instanceof ApiError ? error.message : 'The timer could not be started.')
    }
  }
}

/** Where what was waited for goes on: the field that waits. */
export function afterWait(timer: Schemas['TimerView']): RouteLocationRaw | null {
  const { system, what } = timer
  if (!system) return null
  if (what === 'remeasure') return { path: `/system/${system}/visit`, query: { step: 'measure' } }
  if (what === 'switched_off') return { path: `/system/${system}/visit`, query: { step: 'look' } }
  if (what === 'mix') return { path: '/bench', query: { system } }
  return `/system/${system}/change`
}

/** A timer with the seconds left now; 0 when it is over. */
export type Running = Schemas['TimerView'] & { left: number }

export function useTimers() {
  const client = useQueryClient()
  const read = ref(Date.now())
  const now = ref(Date.now())
  const query = useQuery({
    queryKey: ['timers'],
    queryFn: async () => {
      const found = await ask(api.GET('/api/timers'))
      read.value = Date.now()
      now.value = read.value
      return found
    },
    refetchInterval: 15_000,
    placeholderData: (before) => before,
  })
  let tick = 0
  onMounted(() => (tick = window.setInterval(() => (now.value = Date.now()), 1000)))
  onBeforeUnmount(() => clearInterval(tick))
  const timers = computed<Running[]>(() =>
    (query.data.value ?? []).map((timer) => ({
      ...timer,
      left: Math.max(0, Math.round(timer.seconds_left - (now.value - read.value) / 1000)),
    })),
  )
  async function dismiss(id: string) {
    try {
      await write(client, 'dropTimer', { system: TIMERS, by: lastPicked.value, id })
      await readAnew(client, { queryKey: ['timers'] })
    } catch (error) {
      notify(error instanceof ApiError ? error.message : 'The timer could not be put away.')
    }
  }
  return { timers, dismiss }
}
