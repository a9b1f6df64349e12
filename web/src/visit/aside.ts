/** What of the advice that was set aside on a visit still stands there when it is closed. */
import type { Verdict, Visit } from '../api/client'

type Aside = NonNullable<Visit['overruled']>

/** Advice on a value that was cleared again is not set aside, nor is a danger. Before all was judged, nothing is known to
 *  be gone. */
export function stillThere(aside: Visit['overruled'], standing: Verdict[], judged: boolean): Aside {
  const known = (subject: string) => {
    const here = standing.filter((verdict) => verdict.subject === subject)
    return !judged || (here.length > 0 && !here.some((verdict) => verdict.stays))
  }
  return Object.fromEntries(Object.entries(aside ?? {}).filter(([subject]) => known(subject)))
}
