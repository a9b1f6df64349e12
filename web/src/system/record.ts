/** Recording an entry: repeated with the same id until it is known to be there, and taken back by amendment. */
import { api, ApiError, ask, newId, type Schemas } from '../api/client'

export async function record(system: string, entry: Schemas['AddEntry']): Promise<Schemas['EntryView']> {
  for (let attempt = 0; ; attempt++) {
    try {
      return await ask(api.POST('/api/systems/{id}/entries', { params: { path: { id: system } }, body: entry }))
    } catch (error) {
      if (!(error instanceof ApiError && error.offline) || attempt >= 3) throw error
      await new Promise((wait) => setTimeout(wait, 600 * (attempt + 1)))
    }
  }
}

export async function withdraw(system: string, entry: string, by: string, reason: string): Promise<void> {
  await record(system, { id: newId(), by, amends: entry, reason, body: { kind: 'withdrawn' } })
}
