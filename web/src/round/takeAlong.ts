/** What a round needs is read beforehand, so that it is there where the connection ends: each system, and the table of what
 *  can be said of its numbers. Only where a service worker keeps what is read. */
import { onScopeDispose, watch } from 'vue'
import { api, readAt } from '../api/client'
import { lastPicked } from '../parts/recorder'
import { readJudging } from '../visit/tabled'

/** What was read so lately is not read again. */
const AGAIN = 10 * 60_000
/** Nobody walks to more on one round. */
const MOST = 40
const taken = new Map<string, number>()

export function useTakeAlong(systems: () => readonly { id: string }[]) {
  let gone = false
  onScopeDispose(() => (gone = true))
  async function take() {
    const saving = (navigator as { connection?: { saveData?: boolean } }).connection?.saveData
    if (!navigator.serviceWorker?.controller || saving) return
    for (const { id } of systems().slice(0, MOST)) {
      // One after the other, behind all that somebody waits for.
      await new Promise((idle) => (window.requestIdleCallback ?? setTimeout)(idle))
      const key = `${id} ${lastPicked.value}`
      if (gone || readAt.value) return
      if (Date.now() - (taken.get(key) ?? 0) < AGAIN) continue
      taken.set(key, Date.now())
      try {
        const { response } = await api.GET('/api/systems/{id}', { params: { path: { id } } })
        if (!response.ok) return
        await readJudging(id, lastPicked.value)
      } catch {
        taken.delete(key)
        return
      }
    }
  }
  let taking = false
  watch(
    systems,
    async (now) => {
      if (taking || !now.length) return
      taking = true
      await take().finally(() => (taking = false))
    },
    { immediate: true },
  )
}
