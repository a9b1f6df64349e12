/** The most pressing of what cannot wait, on whichever page somebody is: asked every minute, behind all that the page itself wants. */
import { useQuery } from '@tanstack/vue-query'
import { computed, onMounted, onScopeDispose, ref } from 'vue'
import { api, ask } from '../api/client'
import { closed } from '../door/session'
import { isNow } from '../parts/rank'
import { lastPicked } from '../parts/recorder'

/** Once the page stands. */
const AFTER = 5_000

export interface Danger {
  system: string
  said: string
}

export function useDanger() {
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
  return computed<Danger | null>(() => {
    const found = round.data.value?.tasks.find(({ task }) => isNow(task))
    const at = found && round.data.value?.systems[found.at]
    return found && at ? { system: at.id, said: `${at.name}: ${found.task.name}` } : null
  })
}
