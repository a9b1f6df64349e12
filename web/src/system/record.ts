/** Recording an entry: sent in its turn until the server has it, and taken back by an amendment. */
import { useQueryClient } from '@tanstack/vue-query'
import { watch } from 'vue'
import { newId, type Schemas } from '../api/client'
import { useRefresh } from '../api/queries'
import { notify } from '../parts/notice'
import { waiting, write } from '../writes/queue'

/** Resolves when something has to wait for a connection. */
function stuck(): { promise: Promise<'waiting'>; stop: () => void } {
  let stop = () => {}
  const promise = new Promise<'waiting'>((resolve) => {
    stop = watch(waiting, (now) => now > 0 && resolve('waiting'), { immediate: true })
  })
  return { promise, stop }
}

export function useRecord() {
  const client = useQueryClient()
  const refresh = useRefresh()

  /** `waiting` when there is no connection: the entry stands on this device then, and goes by itself. */
  async function record(system: string, by: string, entry: Schemas['AddEntry']): Promise<'recorded' | 'waiting'> {
    const sending = write(client, 'entry', { system, by, entry })
    const { promise, stop } = stuck()
    const came = await Promise.race([sending.then(() => 'recorded' as const), promise]).finally(stop)
    if (came === 'recorded') await refresh()
    // What is refused of it is kept and said at the head of every page.
    else sending.then(refresh, refresh)
    return came
  }
  async function withdraw(system: string, by: string, entry: string): Promise<void> {
    const body = { kind: 'withdrawn' as const }
    await record(system, by, { id: newId(), amends: entry, reason: 'Undone right away.', body })
  }
  /** Records, and says so with the way back; `follows` is on its way before anything is said, so that whoever leaves the
   * page on the word leaves nothing behind, and `undone` takes it back. */
  async function recordAndSay(system: string, by: string, entry: Schemas['AddEntry'], said: string) {
    const came = await record(system, by, entry)
    if (came === 'recorded') notify(said, () => withdraw(system, by, entry.id))
    else notify('Not connected. It is kept on this device, and sent as soon as it is.')
    return came
  }
  return { record, withdraw, recordAndSay }
}
