/** What a device looks up without a connection, and what it leaves to the core. */
import { describe, expect, it } from 'vitest'
import type { Schemas, Visit } from '../../src/api/client'
import { lookUp, typedIn } from '../../src/visit/tabled'

const perMs = (scale: Schemas['EcScale']) => ({ ms_cm: 1, us_cm: 1000, ppm500: 500, ppm640: 640, ppm700: 700 })[scale]
const found = (visit: Visit) => Object.fromEntries(typedIn(visit, perMs))

describe('the numbers of a visit as the table knows them', () => {
  it('has each in the unit of the table', () => {
    const ec = { value: 910, scale: 'ppm700' as const, compensated: true }
    expect(found({ level: { by: 'height', height_mm: 120, pump_ran: true }, temperature: 21, ec })).toEqual({
      height: 120,
      temperature: 21,
      ec: 1.3,
    })
    expect(found({ ph: { by: 'kit', low: 6.5, high: 7 } })).toEqual({ ph_kit: 6.5 })
  })

  it('says nothing of what has to be worked out from two numbers', () => {
    const level = { by: 'volume' as const, litres: 40, pump_ran: true }
    // The level is another one after the pouring; how much fits depends on the level that was read.
    expect(found({ level, top_off: { litres: 5, water: 'plain' } })).toEqual({})
    expect(found({ level: { ...level, pump_ran: false } })).toEqual({})
    expect(found({ ec: { value: 1.3, scale: 'ms_cm', compensated: false } })).toEqual({})
    expect(found({ top_off: { litres: 5, water: 'feed', ec: 1.2 } })).toEqual({})
    expect(found({ top_off: { litres: 5, water: 'plain' } })).toEqual({ added: 5 })
  })
})

describe('the table', () => {
  const range = (from: number, below: number, code: string) =>
    ({ from, below, code, subject: 'ph', tone: 'fine', rank: 'routine', finding: code, next: '' }) as const
  const row = (until: string, code: string) => ({ typed: 'ph' as const, until, ranges: [range(5.5, 6.5, code)] })
  const table: Schemas['JudgingTable'] = {
    made: '2027-03-09T08:30:00Z',
    until: '2027-03-12T08:30:00Z',
    child: false,
    rows: [row('2027-03-10T08:30:00Z', 'first'), row('2027-03-12T08:30:00Z', 'then')],
  }

  it('is asked by value and by day, and is silent outside of both', () => {
    expect(lookUp(table, 'ph', 5.5, new Date('2027-03-09T12:00:00Z'))?.code).toBe('first')
    expect(lookUp(table, 'ph', 6.4, new Date('2027-03-11T12:00:00Z'))?.code).toBe('then')
    expect(lookUp(table, 'ph', 6.5, new Date('2027-03-11T12:00:00Z'))).toBeUndefined()
    expect(lookUp(table, 'ph', 6, new Date('2027-03-13T12:00:00Z'))).toBeUndefined()
    expect(lookUp(table, 'ec', 6, new Date('2027-03-09T12:00:00Z'))).toBeUndefined()
  })
})
