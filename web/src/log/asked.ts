/** What is looked for in the log: it stands in the address, so that it can be shared and Back goes to it. */
import type { LocationQuery } from 'vue-router'
import type { Schemas } from '../api/client'

export interface Asked {
  words: string
  place: string | null
  system: string | null
  person: string | null
  sort: Schemas['Sort'] | null
  from: string | null
  to: string | null
}

const one = (value: LocationQuery[string] | undefined) => (typeof value === 'string' && value ? value : null)
const day = (value: LocationQuery[string] | undefined) =>
  /^\d{4}-\d\d-\d\d$/.test(one(value) ?? '') ? one(value) : null

export const readAsked = (query: LocationQuery): Asked => ({
  words: one(query.words) ?? '',
  place: one(query.place),
  system: one(query.system),
  person: one(query.person),
  sort: one(query.sort) as Asked['sort'],
  from: day(query.from),
  to: day(query.to),
})
export const writeAsked = (asked: Asked) => Object.fromEntries(Object.entries(asked).filter(([, value]) => value))
export const narrowed = (asked: Asked) => Object.keys(writeAsked(asked)).length > 0

/** As the server is asked. */
export const queryOf = (asked: Asked) => ({
  ...(asked.words.trim() ? { words: asked.words.trim() } : {}),
  ...(asked.place ? { places: asked.place } : {}),
  ...(asked.system ? { systems: asked.system } : {}),
  ...(asked.person ? { people: asked.person } : {}),
  ...(asked.sort ? { sorts: asked.sort } : {}),
  ...(asked.from ? { from: asked.from } : {}),
  ...(asked.to ? { to: asked.to } : {}),
})

type Thread = Schemas['AcrossThread']
export interface Sitting {
  system: string
  name: string
  place: string
  /** In the order in which it went. */
  threads: Thread[]
}
export interface Day {
  on: string
  said: string
  sittings: Sitting[]
}

/** The threads, newest first, as days, and each day as what went on at each system, from its morning on. */
export function daysOf(threads: Thread[]): Day[] {
  const days: Day[] = []
  for (const thread of threads) {
    let here = days.at(-1)
    if (!here || here.on !== thread.on || here.said !== thread.day)
      days.push((here = { on: thread.on, said: thread.day, sittings: [] }))
    let sitting = here.sittings.find((one) => one.system === thread.system)
    if (!sitting) {
      sitting = { system: thread.system, name: thread.system_name, place: thread.place_name, threads: [] }
      here.sittings.push(sitting)
    }
    sitting.threads.unshift(thread)
  }
  return days
}

/** Lines as sentences, one behind the other. */
export const prose = (lines: string[]) => lines.map((line) => (/[.!?…]$/.test(line) ? line : `${line}.`)).join(' ')

/** A text in pieces: those that a search found, by the beginnings of its words, without case or accents. */
export function found(text: string, words: string): { text: string; hit: boolean }[] {
  const plain = (some: string) =>
    some
      .normalize('NFD')
      .replace(/\p{Diacritic}/gu, '')
      .toLowerCase()
  const sought = words
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
    .map(plain)
  if (!sought.length) return [{ text, hit: false }]
  return text
    .split(/([\p{L}\p{N}\p{M}]+)/u)
    .filter(Boolean)
    .map((piece) => ({ text: piece, hit: sought.some((word) => plain(piece).startsWith(word)) }))
}
