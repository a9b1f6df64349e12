/** When a visit was, where it was not just now: kept with the visit, so that it outlives a reload. */
import { computed, ref, watch } from 'vue'
import { nowThere } from '../api/client'
import { clockAt, dayAndTime } from '../parts/placeTime'
import type { useVisit } from './useVisit'

export function useWhen(
  v: Pick<ReturnType<typeof useVisit>, 'id' | 'left' | 'begun'>,
  zoneOf: () => string | undefined,
) {
  const when = ref<string | null>(null)
  const kept = computed(() => `mopsel.when.${v.id.value}`)
  watch(kept, (key) => (when.value = localStorage.getItem(key)))
  watch(when, (now) => (now ? localStorage.setItem(kept.value, now) : localStorage.removeItem(kept.value)))
  /** What was left half done on an earlier day is not of now: which day it is of is asked before anything else. */
  const leftOn = computed(() => {
    const [left, zone] = [v.left.value, zoneOf()]
    if (!zone || !left || when.value || !v.begun.value) return null
    const earlier = clockAt(zone, new Date(left)).day < clockAt(zone, nowThere()).day
    return earlier ? dayAndTime(left, zone) : null
  })
  function keepDay() {
    when.value = v.left.value
    v.left.value = null
  }
  return { when, leftOn, keepDay }
}
