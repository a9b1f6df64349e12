/** The paper of a week as it is typed back: one visit for each system and day on which something stands. */
import { newId, type Schemas, type Visit } from '../api/client'
import type { Units } from '../api/units'
import { instantAt } from '../parts/placeTime'

export type Week = Schemas['WeekView']
export type Row = Schemas['WeekRow']
type System = Schemas['WeekSystem']

/** What is typed of one system on one day. */
export interface Typed {
  id: string
  done: string[]
  numbers: Partial<Record<Schemas['WeekNumber'], string>>
  who: string
}
export type Paper = Record<string, Typed>
export const keyOf = (system: string, on: string) => `${system} ${on}`
export const blank = (): Typed => ({ id: newId(), done: [], numbers: {}, who: '' })
export const isTyped = (one: Typed | undefined): one is Typed =>
  !!one && (one.done.length > 0 || Object.values(one.numbers).some((text) => text?.trim()))

const number = (text: string | undefined) => {
  const value = Number((text ?? '').trim().replace(',', '.'))
  return text?.trim() && Number.isFinite(value) ? value : null
}
/** A number that is none. */
export const unread = (text: string | undefined) => !!text?.trim() && number(text) === null

/** The visit that a column of the paper says; a look at plants, roots or water that was ticked was a sound one. */
export function visitOf(
  system: System,
  rows: Row[],
  typed: Typed,
  units: Units,
  kit: (low: number) => Visit['ph'],
): Visit {
  const visit: Visit = {}
  const done: Schemas['Check'][] = []
  const rules: Schemas['RuleDone'][] = []
  for (const row of rows.filter((one) => typed.done.includes(one.code))) {
    if (row.rule) rules.push({ rule: row.rule, name: row.name })
    else if (row.check === 'look_in') visit.all_fine = true
    else if (row.check === 'plants') visit.plants = {}
    else if (row.check === 'roots')
      visit.roots = { answers: { stick_together: false, slime_or_browning: false, matted_or_foul: false } }
    else if (row.check === 'water_glass') visit.glass = { clarity: 'clear' }
    else if (row.check) done.push(row.check)
  }
  if (done.length) visit.done = done
  if (rules.length) visit.rules = rules
  const { level, temperature, ph, ec } = typed.numbers
  const [litres, warm, acid, strong] = [number(level), number(temperature), number(ph), number(ec)]
  if (litres !== null)
    visit.level = system.by_height
      ? { by: 'height', height_mm: units.fromLength(litres), pump_ran: true }
      : { by: 'volume', litres: units.fromVolume(litres), pump_ran: true }
  if (warm !== null) visit.temperature = units.fromTemperature(warm)
  if (acid !== null) visit.ph = system.by_kit ? kit(acid) : { by: 'meter', value: acid }
  if (strong !== null) visit.ec = { value: strong, scale: system.scale, compensated: system.compensated }
  return visit
}

/** Noon of a day that is past, at the place; nothing today, for that is now. */
export const noonOf = (on: string, today: string, zone: string) =>
  on < today ? { at: instantAt(zone, on, '12:00')?.toISOString() ?? null } : {}
