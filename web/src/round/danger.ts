/** What has become a danger while the pages stood open, on whichever page somebody is: asked every minute, behind all that
 *  the page itself wants. What was one already when they were opened stands first on the round. */
import { useQuery } from '@tanstack/vue-query'
import { computed, onMounted, onScopeDispose, ref, watch } from 'vue'
import { api, ask } from '../api/client'
import { closed } from '../door/session'
import { isNow } from '../parts/rank'
import { lastPicked } from '../parts/recorder'

/** Once the page stands. */
const AFTER = 5_000
/** What is known to whoever has this tab open. */
const KEY = 'mopsel.dangers'

export interface Danger {
  key: string
  system: string
  said: string
}

/** `sees` says which dangers are before one's eyes anyway. */
export function useDanger(sees: (danger: Danger) => boolean) {
  const stands = ref(false)
  let waiting: ReturnType<typeof setTimeout> | undefined
  onMounted(() => (waiting = setTimeout(() => (stands.value = true), AFTER)))
  onScopeDispose(() => clearTimeout(waiting))
  const round = useQuery({
    queryKey: ['round', lastPicked],
    queryFn: () => ask(api.GET('/api/round')),
    refetchInterval: 60_000,
    enabled: () => stands.value && !closed.value,
  })
  const all = computed<Danger[] | null>(() => {
    const read = round.data.value
    if (!read) return null
    return read.tasks.flatMap(({ at, task }) => {
      const system = read.systems[at]
      if (!system || !isNow(task)) return []
      return [{ key: `${system.id}.${task.code}`, system: system.id, said: `${system.name}: ${task.name}` }]
    })
  })
  const stored = sessionStorage.getItem(KEY)
  const known = ref<string[] | null>(stored ? (JSON.parse(stored) as string[]) : null)
  watch(
    () => [all.value, all.value?.filter(sees).length] as const,
    ([now]) => {
      if (!now) return
      // What is over and comes again is told again.
      const before = known.value?.filter((key) => now.some((one) => one.key === key))
      const seen = (before ? now.filter(sees) : now).map((one) => one.key)
      known.value = [...new Set([...(before ?? []), ...seen])]
    },
    { immediate: true },
  )
  watch(known, (now) => now && sessionStorage.setItem(KEY, JSON.stringify(now)))
  return {
    danger: computed(() => all.value?.find((one) => known.value && !known.value.includes(one.key)) ?? null),
    putAway: (one: Danger) => (known.value = [...(known.value ?? []), one.key]),
  }
}
