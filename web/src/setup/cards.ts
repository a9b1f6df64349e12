/** Making and editing cards; where someone else was faster, both versions are shown. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, nextTick, ref } from 'vue'
import { ApiError, newId, type Card, type CardView, type Refusal, type Schemas, sayRefusal } from '../api/client'
import { useRefresh } from '../api/queries'
import { lastPicked } from '../parts/recorder'
import { CARDS, write } from '../writes/queue'

/** A refused field in a closed section opens it, and has the focus. */
async function reveal() {
  await nextTick()
  const wrong = [...document.querySelectorAll<HTMLElement>('form .wrong')].find((said) => said.textContent?.trim())
  for (let at = wrong?.parentElement; at; at = at.parentElement) if (at instanceof HTMLDetailsElement) at.open = true
  const field = wrong?.closest('.field')?.querySelector<HTMLElement>('input, select, textarea')
  ;(field ?? wrong)?.scrollIntoView({ block: 'center' })
  field?.focus()
}

export function useCard() {
  const client = useQueryClient()
  const refresh = useRefresh()
  const faults = ref<Refusal[]>([])
  const failed = ref('')
  const current = ref<CardView | null>(null)
  const yours = ref<unknown>(null)
  const busy = ref(false)
  let id = newId()

  /** The screens read anew after the caller has heard of it; `more` cards are still to come when they should wait. */
  async function run(work: () => Promise<CardView>, more = false): Promise<CardView | null> {
    busy.value = true
    faults.value = []
    failed.value = ''
    current.value = null
    try {
      const card = await work()
      if (!more) setTimeout(refresh)
      id = newId()
      return card
    } catch (error) {
      if (!(error instanceof ApiError)) throw error
      faults.value = error.fields
      failed.value = error.message
      current.value = (error.problem.current as CardView | undefined) ?? null
      yours.value = error.problem.yours ?? null
      void reveal()
      return null
    } finally {
      busy.value = false
    }
  }
  const put = (card: { id: string }, change: Schemas['EditCard']) =>
    run(() => write(client, 'edit', { system: CARDS, by: lastPicked.value, id: card.id, edit: change }))
  const create = (parent: string | null, body: Card, more = false) =>
    run(() => write(client, 'card', { system: CARDS, by: lastPicked.value, id, parent, body }), more)
  /** `holds` says from when; from today when it says nothing. */
  const edit = (card: CardView, body: Card, holds: Schemas['Holds'] | null = null) =>
    put(card, { version: card.version, body, ...(holds ? { holds } : {}) })
  const archive = (card: CardView, archived: boolean) => put(card, { version: card.version, archived })
  const fault = (path: string) => {
    const found = faults.value.find((f) => f.field === `body.${path}` || f.field.startsWith(`body.${path}.`))
    return sayRefusal(found)
  }
  /** What was wrong with the day from which an edit should hold. */
  const holdsFault = computed(() => sayRefusal(faults.value.find((f) => f.field === 'holds')))
  return { create, edit, put, archive, fault, holdsFault, faults, failed, current, yours, busy }
}
