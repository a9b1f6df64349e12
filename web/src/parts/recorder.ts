/** Who is recording, picked once for each place on this device. */
import { ref } from 'vue'

const KEY = 'mopsel.recorder'
const LAST = 'mopsel.reader'
/** The person picked last, at whichever place. */
export const lastPicked = ref(localStorage.getItem(LAST) ?? '')
const picked = ref<Record<string, string>>(JSON.parse(localStorage.getItem(KEY) ?? '{}'))

export const recorderAt = (place: string | undefined) => (place ? picked.value[place] : undefined)

export function pickRecorder(place: string, person: string) {
  picked.value = { ...picked.value, [place]: person }
  localStorage.setItem(KEY, JSON.stringify(picked.value))
  lastPicked.value = person
  localStorage.setItem(LAST, person)
}
