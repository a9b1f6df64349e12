/** A page with its query client, as it is opened, left and reloaded. */
import { onlineManager, VUE_QUERY_CLIENT, type QueryClient } from '@tanstack/vue-query'
import { createApp, type App } from 'vue'
import { makeClient, resume } from '../../src/writes/queue'
import { vi } from 'vitest'

export interface Page<T> {
  held: T
  client: QueryClient
  leave: () => void
  /** As when the browser is closed: it hears of nothing any more. */
  kill: () => void
}

/** Opens a page that holds what a composable gives. */
export function openPage<T>(make: () => T): Page<T> {
  const client = makeClient((lost) => Math.min(50 * 2 ** lost, 400))
  client.mount()
  void resume(client)
  let held: T | undefined
  const app: App = createApp({
    setup() {
      held = make()
      return () => null
    },
  })
  app.provide(VUE_QUERY_CLIENT, client)
  app.mount(document.createElement('div'))
  const kill = () => {
    client.unmount()
    vi.clearAllTimers()
  }
  return { held: held!, client, leave: () => app.unmount(), kill }
}

/** Lets time pass in small steps, looking at the page after each. */
export async function pass(milliseconds: number, look: () => void = () => {}) {
  for (let left = milliseconds; left > 0; left -= 10) {
    await vi.advanceTimersByTimeAsync(Math.min(10, left))
    look()
  }
}
export const connect = (online: boolean) => onlineManager.setOnline(online)
