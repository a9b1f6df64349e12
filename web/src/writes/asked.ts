/** Something that is worked out by the server of what stands on the page: asked a moment after it was typed, given
 *  up when that changes, and answered only for what stands there now. */
import { useQuery } from '@tanstack/vue-query'
import { computed, type ComputedRef } from 'vue'
import { ApiError } from '../api/client'
import { useLate } from './late'
import { unsent } from './queue'

export interface Asked<A> {
  /** The answer to what stands there now. */
  answer: ComputedRef<A | null>
  /** Why there is none: a refusal of what stands there now, or no connection. */
  refused: ComputedRef<ApiError | null>
  /** Whether it is being worked out. */
  asking: ComputedRef<boolean>
}

export function useAsked<Q, A>(
  name: string,
  question: () => Q | null,
  send: (question: Q, signal: AbortSignal) => Promise<A>,
  pause = 160,
): Asked<A> {
  const text = computed(() => JSON.stringify(question()))
  const late = useLate(() => text.value, pause)
  const query = useQuery({
    queryKey: [name, late],
    queryFn: async ({ signal }) => {
      const asked = late.value
      try {
        return { asked, answer: await send(JSON.parse(asked) as Q, signal), refused: null }
      } catch (error) {
        if (!(error instanceof ApiError) || unsent(error)) throw error
        return { asked, answer: null, refused: error }
      }
    },
    enabled: () => late.value !== 'null',
    retry: (_, error) => unsent(error),
    staleTime: 0,
    gcTime: 0,
  })
  const current = computed(() => (query.data.value?.asked === text.value ? query.data.value : null))
  return {
    answer: computed(() => current.value?.answer ?? null),
    refused: computed(() => current.value?.refused ?? (query.failureReason.value as ApiError | null)),
    asking: computed(() => text.value !== 'null' && !current.value),
  }
}
