import type { Schemas } from '../api/client'

export type Coming = Schemas['Coming']

/** Where a day stands to a task that is moved: in words, and whether it may stand there. */
export function onDay(one: Coming, day: Schemas['AheadDay'], until: string): { fits: boolean; says: string } {
  if (day.on === one.due_on) return { fits: false, says: `${day.said}, where it is due.` }
  if (day.on > one.until)
    return { fits: false, says: `${day.said} is past its margin, which ends ${until}: it costs plants.` }
  if (!day.open) return { fits: false, says: `${day.said} is a closed day.` }
  return { fits: true, says: `${day.said}, within its margin, which ends ${until}.` }
}
