/** A visit under way: kept on the server and on this device as it is typed, and judged by the core. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, onScopeDispose, reactive, ref, shallowRef, toRaw, watch, type Ref } from 'vue'
import {
  api,
  ApiError,
  as,
  ask,
  newId,
  type Refusal,
  type Schemas,
  type Verdict,
  type Visit,
  type VisitJudged,
  readAt,
  sayRefusal,
} from '../api/client'
import { Keeper, type Ending, type Stored } from '../writes/keeper'
import { usePressing } from '../parts/pressing'
import { useLate } from '../writes/late'
import { same } from '../writes/merge'
import { keepRefused } from '../writes/refused'
import { arrived, unsent, waiting, write } from '../writes/queue'

type Draft = Schemas['DraftView']
export interface VisitOptions {
  /** How long a typed value stands before it is judged and saved, in milliseconds. */
  judged?: number
  saved?: number
  /** What is said of a visit while Mopsel does not answer. */
  tabled?: (visit: Visit) => Verdict[]
}

const plain = (visit: Visit): Visit => JSON.parse(JSON.stringify(toRaw(visit)))
/** The part of a visit that a fault or a verdict is about. */
const partOf = (field: string) => field.replace(/^(visit|body)\./, '').split('.')[0] ?? ''

export function useVisit(system: Ref<string>, who: Ref<string | undefined>, options: VisitOptions = {}) {
  const client = useQueryClient()
  const visit = reactive<Visit>({})
  const saved = ref<'' | 'saving' | 'saved' | 'waiting' | 'failed'>('')
  const failed = ref('')
  const other = ref<Draft | null>(null)
  const here = ref<string[]>([])
  const ready = ref(false)
  /** When what was found half done was last typed at; none where nothing was. */
  const left = ref<string | null>(null)
  /** What it says, a line each, as far as the server had it. */
  const leftLines = ref<string[]>([])
  const keeper = shallowRef<Keeper<Visit>>()
  const id = ref(newId())
  /** How the visit that was open here ended elsewhere, while what was typed since stands in a new one. */
  const late = ref<Ending | null>(null)
  let quiet = false

  function put(next: Visit) {
    quiet = true
    for (const key of Object.keys(visit)) delete (visit as Record<string, unknown>)[key]
    Object.assign(visit, next)
    queueMicrotask(() => (quiet = false))
  }
  const stored = (draft: Draft): Stored<Visit> => ({ id: draft.id, version: draft.version, doc: draft.visit })

  /** One visit of one person at one system; what it still has to send goes on when the page has left it. */
  function open(at: string, by: string): Keeper<Visit> {
    const mine = () => keeper.value === opened
    let last: Visit = {}
    const opened: Keeper<Visit> = new Keeper<Visit>(newId(), {
      mirror: `mopsel.visit.${at}.${by}`,
      pause: options.saved ?? 350,
      send: async (id, version, doc) => {
        // What is known to be refused is not sent: it waits here until it is mended.
        if (mine() && fresh.value && faults.value.length) throw new ApiError({ fields: faults.value })
        const draft = await write(client, 'draft', { system: at, by, draft: { id, version, visit: doc } })
        return stored(draft)
      },
      standing: (error) => {
        const current = error.problem.current as unknown as Draft | undefined
        if (!current || !mine()) return null
        here.value = (error.problem.yours as unknown as Draft | null)?.lines ?? []
        met = current
        return stored(current)
      },
      now: () => (mine() ? (last = plain(visit)) : last),
      put: (doc) => mine() && put(doc),
      told: (news, error) => {
        if (!mine()) return
        saved.value = news
        failed.value = news === 'failed' ? (error?.message ?? '') : ''
      },
      met: () => (other.value = met),
      ended: (typed, how) => {
        // What is read from this device when the page opens goes on under the id that it opens with.
        if (mine() && how === 'unknown') late.value = how
        else if (mine()) anew(at, by, typed, how)
      },
      apart: (typed, when) => {
        const entry = { id: newId(), at: when, body: { kind: 'visit' as const, ...typed } }
        const why = 'You typed this after the visit was saved or thrown away on another device.'
        keepRefused(entry.id, 'entry', { system: at, by, entry }, new Error(why))
      },
    })
    let met: Draft | null = null
    return opened
  }

  /** What was typed after a visit ended elsewhere stands in a new one. */
  function anew(at: string, by: string, typed: Visit, how: Ending) {
    const opened = (keeper.value = open(at, by))
    id.value = opened.id
    ;[other.value, failed.value, late.value] = [null, '', how]
    put(typed)
    if (Object.keys(typed).length) opened.changed(true)
  }

  /** The parts that are not as they were put there. */
  function typedOver(before: Visit): Visit {
    const was = before as Record<string, unknown>
    return Object.fromEntries(Object.entries(plain(visit)).filter(([part, value]) => !same(value, was[part])))
  }

  async function load(at: string, by: string | undefined) {
    const before = keeper.value
    if (before?.unsaved) {
      before.leave(plain(visit))
      void before.flush()
    }
    ;[ready.value, other.value, saved.value, failed.value] = [false, null, '', '']
    left.value = null
    late.value = null
    put({})
    keeper.value = undefined
    if (!by) return
    const opened = (keeper.value = open(at, by))
    id.value = opened.id
    // What this device still has of it is in sight at once; the server is asked until it answers.
    const glanced = opened.glance() ?? {}
    put(glanced)
    await arrived(client, at)
    if (keeper.value !== opened) return
    const asking = client.fetchQuery({
      queryKey: ['draft', at, by],
      queryFn: () => ask(api.GET('/api/systems/{id}/draft', { params: { path: { id: at }, header: as(by) } })),
      // Where all that is shown comes from this device, what is half done elsewhere is met when it is saved.
      retry: (_, error) => unsent(error) && keeper.value === opened && !readAt.value,
      staleTime: 0,
      gcTime: 0,
    })
    const { draft } = await asking.catch((error: unknown) => {
      if (unsent(error) && readAt.value) return { draft: null }
      throw error
    })
    if (keeper.value !== opened) return
    // What was typed meanwhile stands over what was kept.
    const typed = typedOver(glanced)
    const times = [draft?.at, opened.changedAt].filter((time) => !!time) as string[]
    leftLines.value = draft?.lines ?? []
    left.value = Object.keys(typed).length ? null : (times.sort().at(-1) ?? null)
    const kept = opened.take(draft ? stored(draft) : null, {})
    id.value = opened.id
    put({ ...kept, ...typed })
    ready.value = true
    if (opened.unsaved || Object.keys(typed).length) opened.changed(true)
  }

  watch(
    visit,
    () => {
      if (quiet) return
      if (ready.value) keeper.value?.changed()
      else keeper.value?.note()
    },
    { deep: true },
  )
  watch([system, who], ([at, by]) => void load(at, by), { immediate: true })
  onScopeDispose(() => {
    const left = keeper.value
    if (!left?.unsaved) return
    left.leave(plain(visit))
    void left.flush()
  })

  /** Judged as it was typed a moment ago; an answer to something that stands there no more is not shown. */
  const text = computed(() => JSON.stringify(visit))
  const asked = useLate(() => text.value, options.judged ?? 120)
  const judging = useQuery({
    queryKey: ['judge', system, who, asked],
    queryFn: ({ signal }) => judge(system.value, who.value, JSON.parse(asked.value) as Visit, signal),
    enabled: () => ready.value,
    placeholderData: (before) => before,
    retry: (_, error) => unsent(error),
    staleTime: 0,
    gcTime: 0,
  })
  const unchanged = (part: string) =>
    same((judging.data.value?.asked as Record<string, unknown>)?.[part], (visit as Record<string, unknown>)[part])
  const fresh = computed(() => !!judging.data.value && same(judging.data.value.asked, visit))
  /** Whether Mopsel was asked about what is typed, and could not be reached. */
  const unreached = ref(false)
  watch([fresh, judging.failureReason], ([now, why]) => {
    // It is said until Mopsel answers, not only until it is asked once more.
    if (now) unreached.value = false
    else if (unsent(why)) unreached.value = true
  })
  const pressing = usePressing()
  const judgement = computed<VisitJudged | null>((before) => {
    // While a finger is down nothing moves under it.
    if (pressing.value && before !== undefined) return before
    const found = judging.data.value?.judgement
    if (ready.value && unreached.value)
      return { verdicts: options.tabled?.(visit) ?? [], doubts: [], together: false, fine: false, kept: true }
    if (!found || !ready.value) return null
    // A verdict stays while what it is about stays as it was.
    const verdicts = found.verdicts.filter((verdict) => unchanged(verdict.subject))
    const doubts = found.doubts.filter((doubt) => unchanged(doubt.subject))
    return fresh.value ? found : { verdicts, doubts, together: found.together, fine: found.fine }
  })
  const faults = computed<Refusal[]>(() =>
    ready.value ? (judging.data.value?.faults ?? []).filter((fault) => unchanged(partOf(fault.field))) : [],
  )

  /** After two devices met: take the other version, or keep this one on top of it. */
  function settle(mine: boolean) {
    other.value = null
    keeper.value?.settle(mine)
    if (keeper.value) id.value = keeper.value.id
  }

  /** What was found half done is given up, but for what was written in words. */
  function startAnew() {
    const note = visit.note
    put(note ? { note } : {})
    left.value = null
    keeper.value?.changed()
  }

  /** The visit was closed: nothing of it is sent any more. */
  const end = () => keeper.value?.end()

  async function drop() {
    const [at, by, dropped] = [system.value, who.value, keeper.value]
    if (!by || !dropped) return
    const left = { system: at, by, id: dropped.id, version: dropped.version }
    dropped.end()
    await write(client, 'dropDraft', left)
    if (keeper.value === dropped) await load(at, by)
  }

  const begun = computed(() =>
    Object.values(visit).some((part) => part != null && part !== false && !(Array.isArray(part) && part.length === 0)),
  )
  return {
    visit,
    id,
    keeper,
    judgement,
    faults,
    fresh,
    saved: computed(() => (waiting.value && keeper.value?.unsaved ? 'waiting' : saved.value)),
    failed,
    other,
    here,
    ready,
    left,
    leftLines,
    late,
    startAnew,
    begun,
    settle,
    end,
    drop,
    plain: () => plain(visit),
  }
}

interface Judged {
  asked: Visit
  judgement: VisitJudged | null
  faults: Refusal[]
}

/** A field that cannot be is named, and the rest is judged without it. */
async function judge(system: string, by: string | undefined, asked: Visit, signal: AbortSignal): Promise<Judged> {
  try {
    const params = { path: { id: system }, header: as(by) }
    const answer = await ask(api.POST('/api/systems/{id}/judge', { params, body: { visit: asked }, signal }))
    const { faults, ...judgement } = answer
    return { asked, judgement, faults }
  } catch (error) {
    if (!(error instanceof ApiError) || error.fields.length === 0) throw error
    return { asked, judgement: null, faults: error.fields }
  }
}

/** The fault that belongs to a part of the visit, in words. */
export function faultOf(faults: Refusal[], part: string): string | undefined {
  const fault = faults.find((f) => f.field.replace(/^(visit|body)\./, '').startsWith(part))
  return sayRefusal(fault)
}
