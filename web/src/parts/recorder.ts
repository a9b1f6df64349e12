/** Who is recording, picked once for each place on this device. */
import { ref } from 'vue'

const KEY = 'mopsel.recorder'
const LAST = 'mopsel.reader'
/** The person picked last, at whichever place. */
export const lastPicked = ref(localStorage.getItem(LAST) ?? '')
const NAME = 'mopsel.reader.name'
/** Their name, by which they are known again at another place. */
export const lastName = ref(localStorage.getItem(NAME) ?? '')
const picked = ref<Record<string, string>>(JSON.parse(localStorage.getItem(KEY) ?? '{}'))

/** Whom somebody who signed in is, by place; nothing where nobody signs in. */
const signedIn = ref<Record<string, string>>()

export function actAs(people: { person: string; place: string; name: string }[]) {
  signedIn.value = Object.fromEntries(people.map((one) => [one.place, one.person]))
  lastPicked.value = people[0]?.person ?? ''
  lastName.value = people[0]?.name ?? ''
}
/** On a device of a class one of the children picks themselves; nobody else who was picked on it before acts. */
export function pickAmong(place: string, children: string[]) {
  signedIn.value = undefined
  const before = picked.value[place]
  picked.value = before && children.includes(before) ? { [place]: before } : {}
  if (!children.includes(lastPicked.value)) lastPicked.value = picked.value[place] ?? ''
  lastName.value = ''
}
/** Whether it is the sign-in that says who records. */
export const isSignedIn = () => signedIn.value !== undefined

export const recorderAt = (place: string | undefined) => (place ? (signedIn.value ?? picked.value)[place] : undefined)

export function pickRecorder(place: string, person: string, name: string) {
  if (signedIn.value) return
  picked.value = { ...picked.value, [place]: person }
  localStorage.setItem(KEY, JSON.stringify(picked.value))
  lastPicked.value = person
  localStorage.setItem(LAST, person)
  lastName.value = name
  localStorage.setItem(NAME, name)
}
