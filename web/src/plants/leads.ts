/** Where what a cause calls for is done. */
import type { RouteLocationRaw } from 'vue-router'
import type { Schemas } from '../api/client'
import { pathOf } from '../system/way'

type Way = { to: RouteLocationRaw; name: string }
type Leads = Schemas['Leads']

export function leadsTo(leads: Leads, system: string): Way | null {
  const bench = (part: string): Way => ({ to: pathOf({ to: 'bench', part, name: '' }, system), name: 'Work it out' })
  const ways: Partial<Record<Leads, Way>> = {
    feed: bench('correction'),
    weaken: bench('correction'),
    ph: bench('ph'),
    top_off: bench('top_off'),
    change: { to: pathOf({ to: 'change', name: '' }, system), name: 'Change the water' },
    treat: { to: pathOf({ to: 'visit', part: 'roots', name: '' }, system), name: 'Look at the roots' },
  }
  return ways[leads] ?? null
}

/** At which step of a visit a look is made. */
export const STEP_OF_LOOK: Record<string, string> = {
  level: 'level',
  temperature: 'measure',
  ec: 'measure',
  ph: 'measure',
  glass: 'glass',
  roots: 'roots',
}
