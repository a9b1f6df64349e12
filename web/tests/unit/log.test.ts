import { describe, expect, test } from 'vitest'
import type { Schemas } from '../../src/api/client'
import { daysOf, found, prose, readAsked, writeAsked } from '../../src/log/asked'

const thread = (system: string, on: string, time: string) =>
  ({
    system,
    system_name: system,
    place_name: 'Loft',
    on,
    day: on,
    time,
    head: { id: time },
  }) as Schemas['AcrossThread']

describe('the log as days', () => {
  test('newest day first, and within it each system from its morning on, wherever a page ends', () => {
    const days = daysOf([
      thread('rack', '2027-03-09', '17:00'),
      thread('tote', '2027-03-09', '12:00'),
      thread('rack', '2027-03-09', '08:00'),
      thread('tote', '2027-03-08', '09:00'),
    ])
    expect(days.map((day) => day.on)).toEqual(['2027-03-09', '2027-03-08'])
    expect(days[0]!.sittings.map((one) => [one.name, one.threads.map((t) => t.time)])).toEqual([
      ['rack', ['08:00', '17:00']],
      ['tote', ['12:00']],
    ])
  })
  test('lines are sentences behind each other', () => {
    expect(prose(['Looked in: all fine', 'pH 6.1', 'Why?'])).toBe('Looked in: all fine. pH 6.1. Why?')
  })
  test('what was found is marked by the beginnings of words, without case or accents', () => {
    const hits = (text: string, words: string) =>
      found(text, words)
        .filter((one) => one.hit)
        .map((one) => one.text)
    expect(hits('Brown Möss, unmossed', 'MOSS')).toEqual(['Möss'])
    expect(hits('Roots: stage 0', 'root stage')).toEqual(['Roots', 'stage'])
    expect(found('a (b) c', '')).toEqual([{ text: 'a (b) c', hit: false }])
    expect(
      found('a (b)', '(')
        .map((one) => one.text)
        .join(''),
    ).toBe('a (b)')
  })
  test('the address carries what is looked for, and nothing that is no day', () => {
    const asked = readAsked({ words: 'moss', to: '2027-03-09', from: 'tomorrow', sort: 'harvest' })
    expect(writeAsked(asked)).toEqual({ words: 'moss', to: '2027-03-09', sort: 'harvest' })
  })
})

describe('a table as CSV', () => {
  test('quotes what has to be, ends its lines, and makes a formula text', async () => {
    const { toCsv } = await import('../../src/parts/csv')
    expect(
      toCsv(
        ['a', 'b "c"'],
        [
          [1.5, '=HYPERLINK("x")'],
          [null, 'two\nlines'],
          [-3, '-3'],
        ],
      ),
    ).toBe('a,"b ""c"""\r\n1.5,"\'=HYPERLINK(""x"")"\r\n,"two\nlines"\r\n-3,\'-3\r\n')
  })
})

describe('the clock of a place', () => {
  test('a moment stands on its wall, on both sides of the change of clocks', async () => {
    const { wallClock, bandAt } = await import('../../src/trends/read')
    const london = wallClock('Europe/London')
    expect(london('2027-03-28T00:59:00Z')).toBe(Date.UTC(2027, 2, 28, 0, 59))
    expect(london('2027-03-28T01:00:00Z')).toBe(Date.UTC(2027, 2, 28, 2, 0))
    expect(wallClock('Pacific/Auckland')('2027-01-01T12:00:00Z')).toBe(Date.UTC(2027, 0, 2, 1, 0))
    const bands = [
      { low: 1, high: 2 },
      { since: '2027-02-01T00:00:00Z', low: 3, high: 4 },
    ]
    expect(bandAt(bands, '2027-01-31T00:00:00Z')).toBe(bands[0])
    expect(bandAt(bands, '2027-02-01T00:00:00Z')).toBe(bands[1])
    expect(bandAt([bands[1]!], '2027-01-31T00:00:00Z')).toBeUndefined()
  })
})
