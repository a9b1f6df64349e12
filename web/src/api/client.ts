/** The one typed client of the API, and the shape of its problems. */
import { dayAndTime } from '../parts/placeTime'
import createClient from 'openapi-fetch'
import { ref } from 'vue'
import { lastPicked } from '../parts/recorder'
import type { components, paths } from './schema.gen'

export type Schemas = components['schemas']
export type Problem = Schemas['Problem']
export type Refusal = Schemas['Refusal']
export type Visit = Schemas['Visit']
export type Verdict = Schemas['Verdict']
export type Task = Schemas['Task']
/** What a visit comes to so far. */
export type VisitJudged = Omit<Schemas['JudgedVisit'], 'faults'> & {
  /** Said by what this device keeps, while Mopsel does not answer. */
  kept?: boolean
}
export type Section = Schemas['Section']
export type SystemView = Schemas['SystemView']
export type System = Schemas['System']
export type CardView = Schemas['CardView']
export type Card = Schemas['Card']
export type Knowledge = Schemas['Knowledge']

export const api = createClient<paths>({ baseUrl: '/' })

const PERSON = 'Mopsel-Person'
/** What this device calls itself in the log. */
const DEVICE = /Mobi|Android|iPhone|iPad/.test(navigator.userAgent) ? 'phone or tablet' : 'computer'
/** Set once somebody was asked about the clocks and says that the server's is right. */
export const clockIsRight = ref(false)
/** What the server found odd about the clocks, until somebody has said what is so. */
export const clockDoubt = ref('')

/** What keeps the server from saving just now, in a sentence, while something does. */
export const busyWith = ref('')

/** When what is shown was read, while there is no connection and this device shows what it kept. */
export const readAt = ref('')

/** Told when the server wants somebody to sign in. */
let signedOut = () => {}
export const heardSignedOut = (told: () => void) => void (signedOut = told)

/** By how much the server's clock is ahead of this device's, in milliseconds. */
const AHEAD = 'mopsel.ahead'
/** As it was last seen: what is recorded without a connection is dated by it. */
let ahead = Number(globalThis.localStorage?.getItem(AHEAD) ?? 0) || 0
/** What time it is by the server's clock. */
export const nowThere = () => new Date(Date.now() + ahead)

/** Every request says who acts; where it was not said by `as`, the person picked last on this device. */
api.use({
  onRequest({ request }) {
    if (!request.headers.has(PERSON) && lastPicked.value) request.headers.set(PERSON, lastPicked.value)
    request.headers.set('Mopsel-Device', DEVICE)
    if (request.method !== 'GET') request.headers.set('Mopsel-Clock', new Date().toISOString())
    if (clockIsRight.value) request.headers.set('Mopsel-Clock-Is-Right', 'yes')
    return request
  },
  onResponse({ request, response }) {
    const said = Date.parse(response.headers.get('Mopsel-Now') ?? '')
    if (Number.isNaN(said)) return
    // What this device kept says when it was read; what comes from the server, what time it is.
    if (response.headers.has('Mopsel-Kept')) readAt.value = new Date(said).toISOString()
    else {
      const seen = said - Date.now()
      // An answer takes a moment; what changes by less is the same.
      if (Math.abs(seen - ahead) > 1000) localStorage.setItem(AHEAD, String(seen))
      ahead = seen
      if (request.method === 'GET') readAt.value = ''
    }
  },
})

/** The header that says on whose behalf a request is made. */
export const as = (person: string | undefined) => (person ? { [PERSON]: person } : {})

/** A refused or failed request. `fields` is empty when the request never arrived. */
export class ApiError extends Error {
  constructor(
    readonly problem: Partial<Problem>,
    readonly offline = false,
  ) {
    const fields = problem.fields ?? []
    super(fields.map(sayRefusal).join(' ') || (problem.detail ?? problem.title ?? 'Something went wrong'))
  }
  get fields(): Refusal[] {
    return this.problem.fields ?? []
  }
}

/** Moments in a sentence, as this device's clock has them: the second is for programs. */
const byTheClock = (text: string) =>
  text.replace(/\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z/g, (moment) => dayAndTime(moment))

/** A refusal for people: what to do, and between which figures where there are any. The rest is for programs. */
export function sayRefusal(r: Refusal | undefined): string | undefined {
  if (!r) return undefined
  const allowed = r.allowed.replace(/^allowed (is|are)( there| here)? ?/, '')
  const figures = /\d/.test(allowed) && !/\d/.test(r.mend) && allowed.length < 80
  return byTheClock(figures ? `${r.mend.replace(/\.$/, '')} (${allowed}).` : r.mend)
}

/** The same, with what was found before it: for a line of a file, which its reader may never have seen. */
export const sayFound = (r: Refusal) => `${byTheClock(r.found.replace(/^f/, 'F'))}. ${sayRefusal(r) ?? ''}`

type Answer<T> = { data?: T; error?: unknown; response: Response }

/** Awaits a request; gives its data or throws an `ApiError`, never a half answer. */
export async function ask<T>(request: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await request
  } catch {
    throw new ApiError(
      {
        title: 'Not connected',
        detail: 'Mopsel cannot be reached. What you typed is kept here; try again in a moment.',
      },
      true,
    )
  }
  if (!answer.response.ok) {
    const problem = (answer.error as Problem | undefined) ?? {
      detail: `The server answered ${answer.response.status}.`,
    }
    const clock = 'fields' in problem && problem.fields?.find((fault) => fault.field === 'clock')
    if (clock) clockDoubt.value = sayRefusal(clock) ?? ''
    if ('type' in problem && problem.type === '/problems/signed-out') {
      busyWith.value = 'Nobody is signed in.'
      signedOut()
    }
    if ('fields' in problem && problem.fields?.some((fault) => fault.code === 'person_not_yours'))
      busyWith.value = 'Somebody else typed this here. It is sent when they sign in.'
    if ('type' in problem && problem.type === '/problems/busy') busyWith.value = problem.detail ?? ''
    throw new ApiError(problem)
  }
  return answer.data as T
}

const spelled = (bytes: Uint8Array) => {
  const hex = [...bytes].map((b) => b.toString(16).padStart(2, '0')).join('')
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-')
}
/** A secret that nobody guesses: 122 bits of chance. */
export function newSecret(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16))
  bytes[6] = (bytes[6]! & 0x0f) | 0x40
  bytes[8] = (bytes[8]! & 0x3f) | 0x80
  return spelled(bytes)
}
/** A new id: time-ordered, so that entries sort as they were made. */
export function newId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16))
  let time = Date.now()
  for (let i = 5; i >= 0; i--) {
    bytes[i] = time % 256
    time = Math.floor(time / 256)
  }
  bytes[6] = (bytes[6]! & 0x0f) | 0x70
  bytes[8] = (bytes[8]! & 0x3f) | 0x80
  return spelled(bytes)
}
