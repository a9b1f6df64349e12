/** Somebody who sets up a place is the first person there. */
import { api, ask } from '../api/client'
import { account, loadSession } from './session'

export async function beHere(person: string) {
  const own = account.value?.id
  if (!own) return
  const mine = (await ask(api.GET('/api/accounts'))).find((one) => one.id === own)
  if (!mine) return
  const { version, name, owner } = mine
  const people = [...mine.people.map((one) => one.person), person]
  await ask(api.PUT('/api/accounts/{id}', { params: { path: { id: own } }, body: { version, name, owner, people } }))
  await loadSession()
}
