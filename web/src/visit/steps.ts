/** The steps of a visit, in the order in which a person moves, and what stands at each so far. */
import type { VisitJudged, Schemas, SystemView, Verdict, Visit } from '../api/client'
import { isDanger, toneClass, toneWord } from '../system/toned'

export type StepKey = 'numbers' | 'look' | 'level' | 'measure' | 'glass' | 'roots' | 'top_off' | 'jobs' | 'close'

export interface Step {
  key: StepKey
  name: string
  subjects: Schemas['Subject'][]
  /** How it goes by hand. */
  hands: Schemas['CheckHands'][]
  said: string
  tone: string
  due: boolean
  why: string
}

const ORDER: [StepKey, string, Schemas['Subject'][], Schemas['Check'][]][] = [
  ['look', 'Look and listen', ['plants', 'running'], ['look_in', 'plants']],
  ['level', 'Read the level', ['level'], ['level']],
  ['measure', 'Measure the water', ['temperature', 'ph', 'ec', 'run_off'], ['readings', 'run_off']],
  ['glass', 'Look at the water in a glass', ['glass'], ['water_glass']],
  ['roots', 'Look at the roots', ['roots'], ['roots']],
  ['top_off', 'Add water', ['top_off'], []],
  ['jobs', 'Other jobs', ['light'], []],
  ['close', 'Close', [], []],
]
/** The steps whose numbers stand together, where they are typed on one screen. */
const NUMBERS: StepKey[] = ['level', 'measure', 'top_off']
const ONE_SCREEN: typeof ORDER = [
  ['numbers', 'Numbers', ['level', 'temperature', 'ph', 'ec', 'run_off', 'top_off'], ['level', 'readings', 'run_off']],
  ...ORDER.filter(([key]) => !NUMBERS.includes(key)),
]
/** Where a step is found: with the other numbers, where they stand on one screen. */
export const standsAt = (key: StepKey, oneScreen: boolean): StepKey =>
  oneScreen && NUMBERS.includes(key) ? 'numbers' : !oneScreen && key === 'numbers' ? 'level' : key

const WORST = ['fine', 'watch', 'act', 'now']

export function stepsOf(view: SystemView, visit: Visit, judgement: VisitJudged | null, oneScreen: boolean): Step[] {
  return (oneScreen ? ONE_SCREEN : ORDER).map(([key, name, subjects, checks]) => {
    const here = (judgement?.verdicts ?? []).filter((v) => subjects.includes(v.subject))
    const loud = (v: Verdict) => WORST.indexOf(v.tone) + (isDanger(v) ? 1 : 0)
    const worst = here.sort((a, b) => loud(b) - loud(a))[0]
    // In the word and the colour of the verdict itself.
    const tone = worst ? toneClass(worst) : ''
    // One look stands in the list for what it takes in.
    const all = [...view.tasks.filter((t) => !t.parts?.length), ...view.apart]
    const due = all.filter(
      (t) =>
        t.days_late >= 0 &&
        ((t.check && checks.includes(t.check)) || (!t.check && t.subject && subjects.includes(t.subject))),
    )
    const jobs = key === 'jobs' ? all.filter((t) => t.days_late >= 0 && t.one_tap && t.check !== 'look_in').length : 0
    const done =
      (visit.done?.length ?? 0) +
      (visit.rules?.length ?? 0) +
      (visit.harvests?.length ?? 0) +
      (visit.events?.length ?? 0)
    const said =
      key === 'jobs' ? (done ? `${done} done` : jobs ? `${jobs} due` : '') : worst ? toneWord(worst).toLowerCase() : ''
    const hands = view.hands.filter((one) => checks.includes(one.check))
    return { key, name, subjects, hands, tone, said, due: due.length > 0, why: due[0]?.reason ?? '' }
  })
}
