/** A visit under way: kept on the server and on this device as it is typed, and judged by the core. */
import { computed, onBeforeUnmount, reactive, ref, toRaw, watch, type Ref } from 'vue'
import { api, ApiError, as, ask, newId, type Refusal, type Schemas, type Visit, sayRefusal } from '../api/client'

const mirrorKey = (system: string, who: string) => `mopsel.visit.${system}.${who}`
const plain = (visit: Visit): Visit => JSON.parse(JSON.stringify(toRaw(visit)))

export function useVisit(system: Ref<string>, who: Ref<string | undefined>) {
  const visit = reactive<Visit>({})
  const id = ref(newId())
  const version = ref(0)
  const judgement = ref<Schemas['Judgement'] | null>(null)
  const faults = ref<Refusal[]>([])
  const saved = ref<'' | 'saving' | 'saved' | 'offline'>('')
  const other = ref<Schemas['DraftView'] | null>(null)
  const here = ref<string[]>([])
  const ready = ref(false)
  let quiet = false
  let saveTimer = 0
  let judgeTimer = 0
  let ending = false
  let sending: Promise<void> = Promise.resolve()

  function put(next: Visit) {
    quiet = true
    for (const key of Object.keys(visit)) delete (visit as Record<string, unknown>)[key]
    Object.assign(visit, next)
    queueMicrotask(() => (quiet = false))
  }

  async function load() {
    ready.value = false
    put({})
    ;[id.value, version.value, other.value, judgement.value] = [newId(), 0, null, null]
    if (!who.value) return
    const mirror = localStorage.getItem(mirrorKey(system.value, who.value))
    try {
      const { draft } = await ask(
        api.GET('/api/systems/{id}/draft', { params: { path: { id: system.value }, header: as(who.value) } }),
      )
      if (draft) {
        ;[id.value, version.value] = [draft.id, draft.version]
        put(draft.visit)
      }
    } catch {
      saved.value = 'offline'
    }
    if (mirror) {
      const kept = JSON.parse(mirror) as { id: string; visit: Visit; unsent: boolean }
      if (kept.unsent && (version.value === 0 || kept.id === id.value)) {
        id.value = kept.id
        put(kept.visit)
        queueSave()
      }
    }
    ready.value = true
    void judge()
  }

  function keep(unsent: boolean) {
    if (who.value)
      localStorage.setItem(
        mirrorKey(system.value, who.value),
        JSON.stringify({ id: id.value, visit: plain(visit), unsent }),
      )
  }

  function queueSave() {
    clearTimeout(saveTimer)
    saveTimer = window.setTimeout(send, 350)
  }

  /** One save after the other, so that a version is never named twice. */
  const send = () => (sending = sending.then(save))

  async function save() {
    if (!who.value || ending) return
    saved.value = 'saving'
    const sent = JSON.stringify(plain(visit))
    try {
      const draft = await ask(
        api.PUT('/api/systems/{id}/draft', {
          params: { path: { id: system.value }, header: as(who.value) },
          body: { id: id.value, version: version.value, visit: JSON.parse(sent) },
        }),
      )
      version.value = draft.version
      saved.value = 'saved'
      if (JSON.stringify(plain(visit)) === sent) keep(false)
    } catch (error) {
      if (error instanceof ApiError && error.problem.current) {
        other.value = error.problem.current as unknown as Schemas['DraftView']
        here.value = (error.problem.yours as unknown as Schemas['DraftView'] | null)?.lines ?? []
      } else saved.value = error instanceof ApiError && error.offline ? 'offline' : ''
    }
  }

  /** Judges what is typed. A field that cannot be is named, and the rest is judged without it. */
  async function judge() {
    const asked = plain(visit) as Record<string, unknown>
    const found: Refusal[] = []
    for (let round = 0; round < 6; round++) {
      try {
        const body = { visit: asked as Visit }
        judgement.value = await ask(
          api.POST('/api/systems/{id}/judge', {
            params: { path: { id: system.value }, header: as(who.value) },
            body,
          }),
        )
        faults.value = found
        return
      } catch (error) {
        if (!(error instanceof ApiError) || error.fields.length === 0) return
        found.push(...error.fields)
        const part = error.fields[0]!.field.split('.')[1]
        if (!part || !(part in asked)) break
        delete asked[part]
      }
    }
    faults.value = found
  }

  watch(
    visit,
    () => {
      if (quiet || !ready.value) return
      keep(true)
      queueSave()
      clearTimeout(judgeTimer)
      judgeTimer = window.setTimeout(judge, 120)
    },
    { deep: true },
  )
  watch([system, who], load, { immediate: true })
  onBeforeUnmount(() => {
    clearTimeout(judgeTimer)
    clearTimeout(saveTimer)
    if (saved.value === 'saving' || saveTimer) void send()
  })

  /** After two devices met: take the other version, or keep this one on top of it. */
  function settle(mine: boolean) {
    const theirs = other.value
    if (!theirs) return
    ;[id.value, version.value] = [theirs.id, theirs.version]
    other.value = null
    if (mine) queueSave()
    else {
      put(theirs.visit)
      void judge()
    }
  }

  /** The visit was closed: nothing of the draft is kept. */
  function end() {
    ending = true
    clearTimeout(saveTimer)
    if (who.value) localStorage.removeItem(mirrorKey(system.value, who.value))
  }

  async function drop() {
    if (!who.value) return
    clearTimeout(saveTimer)
    await sending
    const [path, query, header] = [{ id: system.value }, { id: id.value, version: version.value }, as(who.value)]
    await ask(api.DELETE('/api/systems/{id}/draft', { params: { path, query, header } }))
    localStorage.removeItem(mirrorKey(system.value, who.value))
    await load()
  }

  const verdict = (subject: Schemas['Subject']) =>
    computed(() => judgement.value?.verdicts.find((v) => v.subject === subject))
  const begun = computed(() =>
    Object.values(visit).some((part) => part != null && part !== false && !(Array.isArray(part) && part.length === 0)),
  )
  return {
    visit,
    id,
    version,
    judgement,
    faults,
    saved,
    other,
    here,
    ready,
    begun,
    verdict,
    settle,
    end,
    drop,
    plain: () => plain(visit),
  }
}

/** The fault that belongs to a part of the visit, in words. */
export function faultOf(faults: Refusal[], part: string): string | undefined {
  const fault = faults.find((f) => f.field.replace(/^(visit|body)\./, '').startsWith(part))
  return sayRefusal(fault)
}
