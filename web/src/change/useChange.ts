/** A reservoir change under way: kept on the server with every step, so that it can be left and taken up. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'
import { api, ApiError, as, ask, newId, type Refusal, type Schemas, sayRefusal } from '../api/client'
import { Keeper, type Stored } from '../writes/keeper'
import { useLate } from '../writes/late'
import { same } from '../writes/merge'
import { arrived, unsent, waiting, write } from '../writes/queue'
import { keepRefused } from '../writes/refused'
import { asTyped } from './batch'

export type Run = Schemas['ChangeRun']
type Step = Schemas['ChangeStep']
type Shown = Schemas['RunView']
export interface ChangeOptions {
  /** How long a typed value stands before it is looked at and saved, in milliseconds. */
  looked?: number
  saved?: number
}

const fresh = (): Run => ({ extent: 'full', parts: { steps: {} } })
const copy = (run: Run): Run => JSON.parse(JSON.stringify(run)) as Run
const stored = (run: Shown): Stored<Run> => ({ id: run.id, version: run.version, doc: run.run })

export function useChange(system: Ref<string>, who: Ref<string | undefined>, options: ChangeOptions = {}) {
  const client = useQueryClient()
  const run = ref<Run>(fresh())
  const shown = ref<Shown | null>(null)
  const begun = ref(false)
  /** Whether it is known what the server has. */
  const read = ref(false)
  const failed = ref('')
  const met = ref('')
  const keeper = shallowRef<Keeper<Run>>()
  /** The batch that the plan on the screen comes to. */
  const planned = ref<Schemas['Batch'] | null>(null)

  function open(at: string): Keeper<Run> {
    const mine = () => keeper.value === opened
    let last = fresh()
    const opened: Keeper<Run> = new Keeper<Run>(newId(), {
      mirror: `mopsel.change.${at}`,
      pause: options.saved ?? 350,
      send: async (id, version, doc) => {
        const by = mine() ? (by_ = who.value ?? by_) : by_
        const answer = await write(client, 'run', { system: at, by, run: { id, version, run: doc } })
        if (mine()) shown.value = answer.under_way!
        return stored(answer.under_way!)
      },
      standing: (error) => {
        const current = error.problem.current as unknown as Shown | undefined
        if (!current) return null
        if (mine()) {
          shown.value = current
          met.value = 'This change was continued on another device. What was done there and here is put together.'
        }
        return stored(current)
      },
      now: () => (mine() ? (last = copy(run.value)) : last),
      put: (doc) => mine() && (run.value = doc),
      apart: (late, when) => {
        const write = { system: at, by: by_, run: { id: newId(), version: 0, run: late } }
        const why =
          'You typed this after the change was saved or cancelled on another device. Amend the entry in the log.'
        keepRefused(write.run.id, 'run', write, new Error(why), when)
      },
      told: (news, error) => {
        if (mine()) failed.value = news === 'failed' && !error?.fields.length ? (error?.message ?? '') : ''
        if (mine() && news === 'failed' && error?.fields.length) saveFaults.value = { run: copy(run.value), error }
      },
    })
    let by_ = who.value ?? ''
    return opened
  }
  /** What the last save was refused for, as long as it stands. */
  const saveFaults = ref<{ run: Run; error: ApiError } | null>(null)

  async function load() {
    const at = system.value
    leave()
    const opened = (keeper.value = open(at))
    ;[begun.value, read.value, shown.value, run.value] = [false, false, null, fresh()]
    planned.value = null
    const glanced = opened.glance()
    if (glanced) run.value = glanced
    begun.value = !!glanced
    await arrived(client, at)
    if (keeper.value !== opened) return
    try {
      const answer = await client.fetchQuery({
        queryKey: ['change', at],
        queryFn: () =>
          ask(api.GET('/api/systems/{id}/change', { params: { path: { id: at }, header: as(who.value) } })),
        retry: (_, error) => unsent(error) && keeper.value === opened,
        staleTime: 0,
        gcTime: 0,
      })
      if (keeper.value !== opened) return
      const there = answer.under_way ?? null
      shown.value = there
      run.value = opened.take(there && stored(there), run.value)
      failed.value = ''
    } catch (error) {
      if (keeper.value !== opened) return
      failed.value = error instanceof ApiError ? error.message : 'The change could not be read.'
    }
    read.value = true
    begun.value ||= !!shown.value || opened.unsaved
    if (begun.value && !shown.value) opened.changed(true)
    if (opened.unsaved && who.value) void opened.flush()
  }
  watch(system, load, { immediate: true })
  watch(who, (now) => {
    if (now && keeper.value?.unsaved) void keeper.value.flush()
  })
  function leave() {
    const left = keeper.value
    if (!left?.unsaved) return
    left.leave(copy(run.value))
    void left.flush()
  }
  onScopeDispose(leave)

  /** Looked at as it was a moment ago. Its steps stay in sight; what follows from a value goes with it. */
  const text = computed(() => JSON.stringify(run.value))
  const asked = useLate(() => text.value, options.looked ?? 120)
  const looking = useQuery({
    queryKey: ['guide', system, who, asked],
    queryFn: ({ signal }) => look(system.value, who.value, JSON.parse(asked.value) as Run, signal),
    placeholderData: (before, query) => (query?.queryKey[1] === system.value ? before : undefined),
    retry: (_, error) => unsent(error),
    staleTime: 0,
    gcTime: 0,
  })
  const current = computed(() => !!looking.data.value && same(looking.data.value.asked, run.value))
  let steps: Schemas['Guide'] | null = null
  const guide = computed<Schemas['Guide'] | null>(() => {
    const found = looking.data.value
    if (!found) return (steps = null)
    if (found.guide) steps = found.guide
    if (current.value && found.guide) return found.guide
    const bare = (step: Schemas['GuideStep']): Schemas['GuideStep'] => {
      const { step: key, name, doing, done, wants_a_reason } = step
      const [caution, left_out] = [step.caution ?? '', step.left_out ?? null]
      return { step: key, name, doing, done, wants_a_reason, caution, left_out, tone: 'fine' }
    }
    return steps && { ...steps, steps: steps.steps.map(bare), missing: [] }
  })
  const faults = computed<Refusal[]>(() => {
    if (current.value && looking.data.value?.faults.length) return looking.data.value.faults
    const refused = saveFaults.value
    return refused && same(refused.run, run.value) ? refused.error.fields : []
  })

  function put(changes: Partial<Run>, soon = false) {
    run.value = { ...run.value, ...changes }
    if (!begun.value) return
    if (read.value) keeper.value?.changed(soon)
    else keeper.value?.note()
  }
  const parts = (changes: Partial<NonNullable<Run['parts']>>, soon = false) =>
    put({ parts: { ...run.value.parts, ...changes } }, soon)

  async function begin() {
    begun.value = true
    // What the screen proposed is what was chosen.
    if (!run.value.parts?.mixed && guide.value) parts({ mixed: guide.value.mixed })
    if (!read.value) return keeper.value?.note()
    keeper.value?.changed(true)
    await Promise.race([keeper.value?.flush(), connected(2000)])
  }
  /** Until what was typed last has been looked at, or cannot be just now. */
  async function connected(most: number) {
    for (let waited = 0; waited < most && !waiting.value; waited += 25) await new Promise((on) => setTimeout(on, 25))
  }
  async function looked() {
    for (let waited = 0; waited < 2000 && !current.value && !waiting.value; waited += 25)
      await new Promise((on) => setTimeout(on, 25))
  }
  async function mark(step: Step, leftOut?: string) {
    await looked()
    if (faults.value.length) return
    const steps = { ...run.value.parts?.steps } as Record<string, Schemas['StepMark']>
    steps[step] = { at: new Date().toISOString(), ...(leftOut ? { left_out: leftOut } : {}) }
    // Mixed is what the screen showed when it was ticked off; what was left out was not mixed.
    const batch = step === 'prepare' ? { batch: leftOut ? null : asTyped(run.value.batch, planned.value) } : {}
    put({ ...batch, parts: { ...run.value.parts, steps } }, true)
  }
  async function unmark(step: Step) {
    const steps = { ...run.value.parts?.steps } as Record<string, Schemas['StepMark']>
    delete steps[step]
    put({ ...(step === 'prepare' ? { batch: null } : {}), parts: { ...run.value.parts, steps } }, true)
  }
  async function drop() {
    const [at, by, dropped, before] = [system.value, who.value!, keeper.value!, copy(run.value)]
    const { id, version } = dropped
    dropped.end()
    await write(client, 'dropRun', { system: at, by, id, version })
    await load()
    return async () => {
      // What was given up does not come back by its id: this is another with the same steps.
      await write(client, 'run', { system: at, by, run: { id: newId(), version: 0, run: before } })
      if (system.value === at) await load()
    }
  }
  async function finish(done?: string | null): Promise<Schemas['EntryView'] | null> {
    const [at, by, ended] = [system.value, who.value, keeper.value]
    await ended?.flush()
    if (!by || !ended || !read.value || ended.unsaved || faults.value.length || failed.value) return null
    try {
      const entry = await write(client, 'finish', { system: at, by, id: ended.id, ...(done ? { at: done } : {}) })
      ended.end()
      return entry
    } catch (error) {
      if (!(error instanceof ApiError)) throw error
      failed.value = error.message
      saveFaults.value = { run: copy(run.value), error }
      return null
    }
  }
  const fault = (path: string) => sayRefusal(faults.value.find((f) => f.field === `run.${path}`))
  return {
    run,
    plans: (batch: Schemas['Batch']) => (planned.value = batch),
    guide,
    current,
    stored: shown,
    begun,
    ready: read,
    faults,
    failed,
    offline: computed(() => begun.value && waiting.value > 0),
    met,
    put,
    parts,
    begin,
    mark,
    unmark,
    drop,
    finish,
    fault,
  }
}

export type Changing = ReturnType<typeof useChange>

interface Looked {
  asked: Run
  guide: Schemas['Guide'] | null
  faults: Refusal[]
}

async function look(system: string, by: string | undefined, asked: Run, signal: AbortSignal): Promise<Looked> {
  try {
    const params = { path: { id: system }, header: as(by) }
    const guide = await ask(api.POST('/api/systems/{id}/change/guide', { params, body: { run: asked }, signal }))
    return { asked, guide, faults: [] }
  } catch (error) {
    if (!(error instanceof ApiError) || !error.fields.length) throw error
    return { asked, guide: null, faults: error.fields }
  }
}
