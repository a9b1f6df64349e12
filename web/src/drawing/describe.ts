/** A drawing in words, for those who do not see it. */
import type { Schemas, Section } from '../api/client'

const ROOTS = ['sound roots', 'roots that stick together', 'roots with slime', 'rotted roots']

export function describe(system: { kind_name: string; section: Section; units?: Schemas['UnitSystem'] }): string {
  const { water, roots, limit } = system.section
  const level = water == null ? 'level not read yet' : `water at ${Math.round(water * 100)} percent of the height`
  const held = limit == null ? '' : ', with a refill limit'
  return `${system.kind_name} in section: ${level}${held}${roots == null ? '' : `, ${ROOTS[roots]}`}`
}
