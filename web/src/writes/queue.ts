/**
 * Every write that has to arrive: a mutation of the query library, one at a time for each system, kept on
 * this device until the server has answered, and sent again, just as it was, after a lost connection or a
 * reload. The server takes a repeated request as the same one.
 */
import {
  dehydrate,
  hydrate,
  onlineManager,
  QueryClient,
  type DehydratedState,
  type Mutation,
} from '@tanstack/vue-query'
import { ref } from 'vue'
import { api, ApiError, as, ask, newId, nowThere, type Card, type CardView, type Schemas } from '../api/client'
import { readAnew } from './anew'
import { same } from './merge'
import { keepRefused, letGo, type Refused } from './refused'

/** What can be sent, each with all that it needs to be sent again after a reload. */
export interface Writes {
  /** An entry of the log. `closes` is the version of the visit half done, as far as it was known then. */
  entry: { system: string; by: string; entry: Schemas['AddEntry'] }
  draft: { system: string; by: string; draft: Schemas['SaveDraft'] }
  dropDraft: { system: string; by: string; id: string; version: number }
  run: { system: string; by: string; run: Schemas['SaveChange'] }
  dropRun: { system: string; by: string; id: string; version: number }
  finish: { system: string; by: string; id: string; at?: string; saved?: string }
  card: { system: string; by: string; id: string; parent: string | null; body: Card }
  edit: { system: string; by: string; id: string; edit: Schemas['EditCard'] }
  /** A wait, counted from when it was begun: what is sent late is so much shorter. */
  timer: { system: string; by: string; begun: number; timer: Schemas['StartTimer'] }
  dropTimer: { system: string; by: string; id: string }
}
/** Cards, and waits, are sent one after the other as those of one system are. */
export const CARDS = 'cards'
export const TIMERS = 'timers'
interface Answers {
  entry: Schemas['EntryView']
  draft: Schemas['DraftView']
  dropDraft: undefined
  run: Schemas['ChangeAnswer']
  dropRun: undefined
  finish: Schemas['EntryView']
  card: CardView
  edit: CardView
  timer: Schemas['TimerView']
  dropTimer: undefined
}
type Kind = keyof Writes
type DehydratedMutations = DehydratedState['mutations']

/** Each page keeps its own: a page that has nothing to send does not forget what another one has. */
const KEPT = 'mopsel.unsent.'
const keys = new WeakMap<QueryClient, string>()
/** The newest version of each half done visit or change that the server has told this device of. */
const versions = new Map<string, number>()
export const learnVersion = (id: string, version: number) => void versions.set(id, version)

const at = (write: { system: string; by: string }) => ({ path: { id: write.system }, header: as(write.by) })

/** How each is sent. What a version is known to be by now is asked here, after the writes before it. */
const SEND: { [K in Kind]: (write: Writes[K]) => Promise<Answers[K]> } = {
  entry: (write) => {
    const closes = versions.get(write.entry.id) ?? write.entry.closes ?? null
    return ask(api.POST('/api/systems/{id}/entries', { params: at(write), body: { ...write.entry, closes } }))
  },
  draft: async (write) => {
    const draft = await ask(api.PUT('/api/systems/{id}/draft', { params: at(write), body: write.draft }))
    learnVersion(draft.id, draft.version)
    return draft
  },
  dropDraft: async (write) => {
    const query = { id: write.id, version: versions.get(write.id) ?? write.version }
    await ask(api.DELETE('/api/systems/{id}/draft', { params: { ...at(write), query } }))
    return undefined
  },
  run: async (write) => {
    const answer = await ask(api.PUT('/api/systems/{id}/change', { params: at(write), body: write.run }))
    if (answer.under_way) learnVersion(answer.under_way.id, answer.under_way.version)
    return answer
  },
  dropRun: async (write) => {
    const query = { id: write.id, version: versions.get(write.id) ?? write.version }
    await ask(api.DELETE('/api/systems/{id}/change', { params: { ...at(write), query } }))
    return undefined
  },
  card: (write) =>
    ask(
      api.POST('/api/cards', {
        params: { header: as(write.by) },
        body: { id: write.id, parent: write.parent, body: write.body },
      }),
    ),
  edit: async (write) => {
    try {
      return await ask(
        api.PUT('/api/cards/{id}', { params: { path: { id: write.id }, header: as(write.by) }, body: write.edit }),
      )
    } catch (error) {
      // An edit whose answer was lost may have arrived: what stands there is then this device's own.
      const current = error instanceof ApiError ? (error.problem.current as CardView | undefined) : undefined
      const own = current?.version === write.edit.version + 1 && write.edit.body && same(current.body, write.edit.body)
      if (own) return current
      throw error
    }
  },
  timer: (write) => {
    const gone = Math.round((Date.now() - write.begun) / 60_000)
    const timer = { ...write.timer, minutes: Math.max(1, write.timer.minutes - gone) }
    return ask(api.POST('/api/timers', { params: { header: as(write.by) }, body: timer }))
  },
  dropTimer: async (write) => {
    await ask(api.DELETE('/api/timers/{id}', { params: { path: { id: write.id }, header: as(write.by) } }))
    return undefined
  },
  finish: (write) =>
    ask(
      api.POST('/api/systems/{id}/change/finish', {
        params: at(write),
        body: { id: write.id, at: write.at ?? null, saved: write.saved ?? null },
      }),
    ),
}

/** When something was saved here: it may arrive much later, and happened now. Sent again, it keeps its time. */
const dated = <K extends Kind>(kind: K, write: Writes[K]): Writes[K] => {
  const now = nowThere().toISOString()
  if (kind === 'finish') return { ...write, saved: (write as Writes['finish']).saved ?? now }
  if (kind !== 'entry') return write
  const { entry } = write as Writes['entry']
  return { ...write, entry: { ...entry, saved: entry.saved ?? now } } as Writes[K]
}

/** What a write is about. A visit half done and the entry that it becomes are one thing; what only takes something away
 *  holds nothing that was typed. */
function about(kind: Kind, write: Writes[Kind]): string | null {
  if (kind === 'entry') return (write as Writes['entry']).entry.id
  if (kind === 'draft') return (write as Writes['draft']).draft.id
  if (kind === 'run') return (write as Writes['run']).run.id
  if (kind === 'timer') return (write as Writes['timer']).timer.id
  if (kind === 'finish' || kind === 'card' || kind === 'edit') return (write as Writes['finish']).id
  return null
}

/** Whether a request waits for somebody: to sign in, or to sign in again on this device. */
const forSomebody = (error: ApiError) =>
  error.problem.type === '/problems/signed-out' || error.fields.some((one) => one.code === 'person_not_yours')

/** Whether a request may arrive yet: it never came through, nothing could be stored just then, or it waits for somebody. */
export const unsent = (error: unknown) =>
  error instanceof ApiError && (error.offline || error.problem.status === 503 || forSomebody(error))

/** What waits on this device, for a line on every page. */
export const waiting = ref(0)

/** The client with its writes; `pause` is the wait before a lost request is sent again. */
export function makeClient(pause = (lost: number) => Math.min(800 * 2 ** lost, 15_000)): QueryClient {
  const client = new QueryClient({
    defaultOptions: {
      queries: {
        // What the device kept is shown without a connection too.
        networkMode: 'offlineFirst',
        staleTime: 2_000,
        retry: (count, error) => error instanceof ApiError && error.offline && count < 3,
        retryDelay: pause,
      },
    },
  })
  for (const kind of Object.keys(SEND) as Kind[])
    client.setMutationDefaults([kind], {
      mutationFn: SEND[kind] as (write: unknown) => Promise<unknown>,
      retry: (_, error) => unsent(error),
      retryDelay: pause,
      gcTime: 0,
    })
  keys.set(client, KEPT + newId())
  const waited = new WeakSet<Mutation>()
  client.getMutationCache().subscribe(({ mutation }) => {
    if (mutation) ended(mutation, waited)
    keep(client)
  })
  return client
}

/** What earlier pages sent, and nobody waits for on a page. */
const revived = new WeakSet<Mutation>()

/** What was kept here and comes back refused is kept further; what arrived is not. Noted before it is forgotten among
 *  what is still to be sent: at no moment is it nowhere. */
function ended(mutation: Mutation, waited: WeakSet<Mutation>) {
  if (stuck(mutation)) waited.add(mutation)
  const kind = mutation.options.mutationKey?.[0] as Kind
  const write = mutation.state.variables as Writes[Kind] | undefined
  const key = write && kind in SEND ? about(kind, write) : null
  if (!key || pending(mutation)) return
  const { status, error } = mutation.state
  // A save of what is still half done says nothing of the whole.
  if (status === 'success' && kind !== 'draft' && kind !== 'run') letGo(key)
  // What somebody looks on at is said on their page, where it was typed.
  const alone = revived.has(mutation) || (waited.has(mutation) && kind !== 'draft' && kind !== 'run')
  if (status === 'error' && alone) keepRefused(key, kind, write as unknown as Refused['write'], error)
}

const pending = (mutation: Mutation) => mutation.state.status === 'pending'
/** Without a connection, or lost at least once. What only waits its turn behind another is on its way. */
const stuck = (mutation: Mutation) =>
  pending(mutation) && (mutation.state.failureCount > 0 || (mutation.state.isPaused && !onlineManager.isOnline()))

function keep(client: QueryClient) {
  const own = keys.get(client)!
  const all = client.getMutationCache().getAll()
  // A visit half done and the entry that it becomes are one thing to whoever wrote it.
  const things = all.filter(pending).map((one) => {
    const [kind] = (one.options.mutationKey ?? []) as Kind[]
    return (kind && about(kind, one.state.variables as Writes[Kind])) || one
  })
  waiting.value = all.some(stuck) ? new Set(things).size : 0
  const shouldDehydrateMutation = (mutation: Mutation) => pending(mutation) && mutation.options.scope !== undefined
  const { mutations } = dehydrate(client, { shouldDehydrateMutation, shouldDehydrateQuery: () => false })
  if (mutations.length) localStorage.setItem(own, JSON.stringify(mutations))
  else if (localStorage.getItem(own)) localStorage.removeItem(own)
}

/** Sends what earlier pages could not send any more. A page that is still open may send it too: the server takes
 *  the same request as the same. */
export async function resume(client: QueryClient): Promise<void> {
  const cache = client.getMutationCache()
  const before = new Set(cache.getAll())
  const left = Object.keys(localStorage).filter((key) => key.startsWith(KEPT))
  for (const key of left.sort()) {
    try {
      const mutations = JSON.parse(localStorage.getItem(key) ?? '[]') as DehydratedMutations
      const paused = mutations.map((m) => ({ ...m, state: { ...m.state, isPaused: true } }))
      hydrate(client, { mutations: paused, queries: [] })
    } catch {
      // What cannot be read cannot be sent; it stands in nobody's way.
    }
    // Kept under this page's key first: at no moment under none.
    keep(client)
    localStorage.removeItem(key)
  }
  const waits = new Set(cache.getAll().filter((mutation) => !before.has(mutation)))
  for (const mutation of waits) revived.add(mutation)
  const stop = cache.subscribe(({ mutation }) => {
    if (!mutation || !waits.has(mutation) || pending(mutation)) return
    waits.delete(mutation)
    // Each as it arrives: another may wait for its turn much longer.
    void readAnew(client)
  })
  await client.resumePausedMutations()
  stop()
  // What the pages read meanwhile did not know of it.
  if (left.length) await readAnew(client)
}

/** Sends a write after those before it at the same system. Resolves when the server has taken it. */
export function write<K extends Kind>(client: QueryClient, kind: K, variables: Writes[K]): Promise<Answers[K]> {
  const options = { mutationKey: [kind], scope: { id: variables.system } }
  const sent = dated(kind, variables)
  const mutation = client
    .getMutationCache()
    .build<Answers[K], Error, Writes[K], unknown>(client, client.defaultMutationOptions(options))
  return mutation.execute(sent)
}

/** Until nothing that an earlier page sent for a system is on its way any more: only then what the server
 *  says of it is the last word. */
export function arrived(client: QueryClient, system: string): Promise<void> {
  const cache = client.getMutationCache()
  const coming = () => cache.getAll().some((m) => pending(m) && m.options.scope?.id === system)
  return new Promise((resolve) => {
    if (!coming()) return resolve()
    const stop = cache.subscribe(() => {
      if (coming()) return
      stop()
      resolve()
    })
  })
}
