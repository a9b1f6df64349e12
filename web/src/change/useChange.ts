/** A reservoir change under way: kept on the server with every step, so that it can be left and taken up. */
import { computed, onBeforeUnmount, ref, watch, type Ref } from 'vue'
import { api, ApiError, as, ask, newId, type Refusal, type Schemas, sayRefusal } from '../api/client'

export type Run = Schemas['ChangeRun']
type Step = Schemas['ChangeStep']

export function useChange(system: Ref<string>, who: Ref<string | undefined>) {
  const run = ref<Run>({ extent: 'full', parts: { steps: {} } })
  const guide = ref<Schemas['Guide'] | null>(null)
  const stored = ref<Schemas['RunView'] | null>(null)
  const id = ref(newId())
  const version = ref(0)
  const faults = ref<Refusal[]>([])
  const failed = ref('')
  const offline = ref(false)
  const met = ref('')
  const begun = computed(() => version.value > 0)
  let timer = 0
  let again = 0
  const mirrorKey = () => `mopsel.change.${system.value}`
  let sending: Promise<void> = Promise.resolve()

  function take(answer: Schemas['ChangeAnswer']) {
    guide.value = answer.guide
    stored.value = answer.under_way ?? null
    if (answer.under_way) {
      run.value = answer.under_way.run
      id.value = answer.under_way.id
      version.value = answer.under_way.version
    } else {
      run.value = { extent: 'full', parts: { steps: {} } }
      id.value = newId()
      version.value = 0
    }
    const kept = JSON.parse(localStorage.getItem(mirrorKey()) ?? 'null') as {
      id: string
      version: number
      run: Run
    } | null
    if (kept && (kept.id === id.value || !answer.under_way) && kept.version === version.value) {
      id.value = kept.id
      run.value = kept.run
      void (sending = sending.then(save))
    } else localStorage.removeItem(mirrorKey())
  }
  async function load() {
    try {
      take(
        await ask(
          api.GET('/api/systems/{id}/change', {
            params: { path: { id: system.value }, header: as(who.value) },
          }),
        ),
      )
      failed.value = ''
    } catch (error) {
      failed.value = error instanceof ApiError ? error.message : 'The change could not be read.'
    }
  }
  watch(system, load, { immediate: true })
  watch(who, (now) => {
    if (now && localStorage.getItem(mirrorKey())) void (sending = sending.then(save))
  })
  onBeforeUnmount(() => clearTimeout(again))

  /** Looks ahead without storing: before it is begun, and while something is typed that cannot be. */
  async function look() {
    try {
      const body = { run: run.value }
      const params = { path: { id: system.value }, header: as(who.value) }
      guide.value = await ask(api.POST('/api/systems/{id}/change/guide', { params, body }))
      faults.value = []
    } catch (error) {
      faults.value = error instanceof ApiError ? error.fields : []
      if (error instanceof ApiError && !error.fields.length) failed.value = error.message
    }
  }

  async function save() {
    clearTimeout(again)
    if (!who.value) return
    const mirror = JSON.stringify({ id: id.value, version: version.value, run: run.value })
    localStorage.setItem(mirrorKey(), mirror)
    const body = { id: id.value, version: version.value, run: run.value }
    const params = { path: { id: system.value }, header: as(who.value) }
    try {
      const answer = await ask(api.PUT('/api/systems/{id}/change', { params, body }))
      version.value = answer.under_way!.version
      stored.value = answer.under_way!
      guide.value = answer.guide
      faults.value = []
      failed.value = ''
      offline.value = false
      if (localStorage.getItem(mirrorKey()) === mirror) localStorage.removeItem(mirrorKey())
    } catch (error) {
      if (!(error instanceof ApiError)) throw error
      offline.value = error.offline
      if (error.offline) again = window.setTimeout(() => (sending = sending.then(save)), 3000)
      else localStorage.removeItem(mirrorKey())
      faults.value = error.fields
      if (error.problem.current) {
        met.value = 'This change was continued on another device. What stands there is shown now.'
        await load()
      } else if (!error.fields.length && !error.offline) failed.value = error.message
    }
  }
  /** One save after the other, so that a version is never named twice. */
  function put(changes: Partial<Run>, soon = false) {
    run.value = { ...run.value, ...changes }
    clearTimeout(timer)
    if (!begun.value) return void look()
    timer = window.setTimeout(() => (sending = sending.then(save)), soon ? 0 : 350)
  }
  const parts = (changes: Partial<NonNullable<Run['parts']>>, soon = false) =>
    put({ parts: { ...run.value.parts, ...changes } }, soon)

  async function begin() {
    clearTimeout(timer)
    await (sending = sending.then(save))
  }
  async function mark(step: Step, leftOut?: string) {
    const steps = { ...run.value.parts?.steps } as Record<string, Schemas['StepMark']>
    steps[step] = { at: new Date().toISOString(), ...(leftOut ? { left_out: leftOut } : {}) }
    run.value = { ...run.value, parts: { ...run.value.parts, steps } }
    clearTimeout(timer)
    await (sending = sending.then(save))
  }
  async function unmark(step: Step) {
    const steps = { ...run.value.parts?.steps } as Record<string, Schemas['StepMark']>
    delete steps[step]
    run.value = { ...run.value, parts: { ...run.value.parts, steps } }
    clearTimeout(timer)
    await (sending = sending.then(save))
  }
  async function drop() {
    clearTimeout(timer)
    clearTimeout(again)
    localStorage.removeItem(mirrorKey())
    const params = { path: { id: system.value }, header: as(who.value) }
    await sending
    const seen = { id: id.value, version: version.value }
    const body = { id: id.value, version: 0, run: run.value }
    await ask(api.DELETE('/api/systems/{id}/change', { params: { ...params, query: seen } }))
    await load()
    return async () => {
      await ask(api.PUT('/api/systems/{id}/change', { params, body }))
      await load()
    }
  }
  async function finish(): Promise<Schemas['EntryView'] | null> {
    clearTimeout(timer)
    await (sending = sending.then(save))
    if (faults.value.length || failed.value || !who.value) return null
    try {
      const params = { path: { id: system.value }, header: as(who.value) }
      return await ask(api.POST('/api/systems/{id}/change/finish', { params, body: { id: id.value } }))
    } catch (error) {
      if (!(error instanceof ApiError)) throw error
      faults.value = error.fields
      failed.value = error.message
      return null
    }
  }
  const fault = (path: string) => {
    const found = faults.value.find((f) => f.field === `run.${path}`)
    return sayRefusal(found)
  }
  return {
    run,
    guide,
    stored,
    begun,
    faults,
    failed,
    offline,
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
