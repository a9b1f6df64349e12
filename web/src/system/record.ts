/** Recording an entry: repeated with the same id until it is known to be there, and taken back by amendment. */
import { api, ApiError, as, ask, newId, type Schemas } from '../api/client'

export async function record(system: string, by: string, entry: Schemas['AddEntry']): Promise<Schemas['EntryView']> {
  const params = { path: { id: system }, header: as(by) }
  for (let attempt = 0; ; attempt++) {
    try {
      return await ask(api.POST('/api/systems/{id}/entries', { params, body: entry }))
    } catch (error) {
      if (!(error instanceof ApiError && error.offline) || attempt >= 3) throw error
      await new Promise((wait) => setTimeout(wait, 600 * (attempt + 1)))
    }
  }
}

export async function withdraw(system: string, entry: string, by: string, reason: string): Promise<void> {
  await record(system, by, { id: newId(), amends: entry, reason, body: { kind: 'withdrawn' } })
}
