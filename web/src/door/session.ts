/** Who is signed in on this device, where one has to sign in at all; and what they may do. */
import { computed, ref } from 'vue'
import { api, ask, heardSignedOut, type Schemas } from '../api/client'
import { forgetRead } from './installed'
import { actAs, pickAmong } from '../parts/recorder'

export type Act = Schemas['Act']
export type SessionView = Schemas['SessionView']

/** As the server said it last; unknown until it answered. */
export const session = ref<SessionView>()
/** Whether somebody has to sign in before anything else is shown. */
export const closed = computed(() => Boolean(session.value?.asked && !session.value.account && !session.value.class))
/** The class that this device is of: it shows the children's tasks of one room, and nothing else. */
export const inClass = computed(() => session.value?.class ?? undefined)
export const account = computed(() => session.value?.account ?? undefined)

const KEPT = 'mopsel.session'
const whose = (view: SessionView | undefined) => view?.account?.id ?? view?.class?.place ?? ''

export function setSession(now: SessionView) {
  const before = session.value ?? kept()
  if (before && whose(before) !== whose(now)) forgetRead()
  session.value = now
  localStorage.setItem(KEPT, JSON.stringify(now))
  // Where nobody signs in, whoever was picked on this device acts.
  if (now.class)
    pickAmong(
      now.class.place,
      now.class.children.map((one) => one.id),
    )
  else if (now.asked) actAs(now.account?.people ?? [])
}

/** Who was signed in when the server was last heard: without a connection it is still them. */
function kept(): SessionView | undefined {
  try {
    return JSON.parse(localStorage.getItem(KEPT) ?? 'null') ?? undefined
  } catch {
    return undefined
  }
}

export async function loadSession() {
  try {
    setSession(await ask(api.GET('/api/session')))
  } catch (error) {
    const before = kept()
    if (!session.value && before) setSession(before)
    throw error
  }
}
heardSignedOut(() => {
  if (!closed.value) void loadSession().catch(() => {})
})

/** Whether something may be done, at a place or at any; where nobody signs in the person picked decides, and the server says. */
export function may(act: Act, place?: string): boolean {
  const now = session.value
  if (!now?.asked) return true
  if (now.class) return act === 'look' || act === 'care'
  if (!now.account) return false
  if (now.account.owner) return true
  if (!place) return now.account.may.includes(act)
  return now.account.people.some((one) => one.place === place && one.may.includes(act))
}
