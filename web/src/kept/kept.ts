/** What a refused write says, and what of it can go into a visit. */
import type { Card, Visit } from '../api/client'
import type { Writes } from '../writes/queue'
import type { Refused } from '../writes/refused'

/** When it was entered on this device. */
export function savedAt(one: Refused): string {
  if (one.kind !== 'entry') return one.at
  const { entry } = one.write as unknown as Writes['entry']
  return entry.at ?? entry.saved ?? one.at
}

/** Whether it amends another entry, which has to be looked at again. */
export const amends = (one: Refused) => one.kind === 'entry' && !!(one.write as unknown as Writes['entry']).entry.amends

/** The visit that it is, unless it amends another entry: that one has to be looked at first. */
export function asVisit(one: Refused): Visit | null {
  if (one.kind === 'draft') return (one.write as unknown as Writes['draft']).draft.visit
  if (one.kind !== 'entry') return null
  const { body, amends } = (one.write as unknown as Writes['entry']).entry as { body: Visit; amends?: string | null }
  if (amends || (body as { kind?: string }).kind !== 'visit') return null
  const doc = { ...body } as Record<string, unknown>
  // How long it took was counted for the visit that was refused.
  for (const part of ['kind', 'minutes', 'all_fine']) delete doc[part]
  return doc as Visit
}

/** What was typed, a line each: in the server's words where it said them, else part by part. */
export function typedOf(one: Refused): string[] {
  if (one.lines.length) return one.lines
  if (one.kind === 'finish') return ['A reservoir change was finished']
  const write = one.write as { body?: Card; edit?: { body?: Card }; timer?: { label: string } }
  if (write.timer) return [`Timer: ${write.timer.label}`]
  const entry = one.kind === 'entry' ? (one.write as unknown as Writes['entry']).entry.body : null
  const run = one.kind === 'run' ? (one.write as unknown as Writes['run']).run.run : null
  const said = asVisit(one) ?? entry ?? run ?? write.body ?? write.edit?.body ?? {}
  return flat(said as Record<string, unknown>)
}

function flat(value: Record<string, unknown>, before = ''): string[] {
  return Object.entries(value).flatMap(([key, part]) => {
    const name = [before, key.replaceAll('_', ' ')].filter(Boolean).join(', ')
    if (part == null || part === false || key === 'kind' || key === 'card') return []
    if (part === true) return [name]
    if (Array.isArray(part) && part.every((item) => typeof item !== 'object'))
      return part.length ? [`${name}: ${part.join(', ')}`] : []
    if (typeof part === 'object') return flat(part as Record<string, unknown>, name)
    return [`${name}: ${String(part)}`]
  })
}
