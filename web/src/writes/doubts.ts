/** What in an entry is more likely a slip than so, as the core sees it: asked about before it is saved. */
import { computed, reactive, type Ref } from 'vue'
import { api, as, ask, type Schemas } from '../api/client'
import { useAsked } from './asked'

export function useDoubts(system: Ref<string>, by: Ref<string | undefined>, body: () => Schemas['Body'] | null) {
  const said = reactive(new Set<string>())
  const { answer, asking } = useAsked(
    'doubts',
    () => {
      const entry = body()
      return entry && { at: system.value, by: by.value, entry }
    },
    ({ at, by, entry }, signal) => {
      const params = { path: { id: at }, header: as(by) }
      return ask(api.POST('/api/systems/{id}/doubts', { params, body: { body: entry }, signal }))
    },
  )
  return {
    /** What nobody has answered yet. */
    open: computed(() => (answer.value ?? []).filter((doubt) => !said.has(doubt.question))),
    /** Whether it is being looked over. */
    asking,
    say: (question: string) => said.add(question),
  }
}
