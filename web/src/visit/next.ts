/** Where the hands go next: what is due at the same place first, in the order of the round. */
import { computed, ref, type Ref } from 'vue'
import { useRound } from '../api/queries'

/** Visits saved on this device since the page was loaded: not proposed again before the round says so. */
const seen = ref(new Set<string>())
export const visited = (system: string) => (seen.value = new Set([...seen.value, system]))

export function useNext(here: Ref<string>) {
  const round = useRound()
  return computed(() => {
    const all = round.data.value?.systems ?? []
    const place = all.find((s) => s.id === here.value)?.place
    const left = all.filter((s) => s.id !== here.value && s.due > 0 && !seen.value.has(s.id))
    return left.find((s) => s.place === place) ?? left[0]
  })
}
