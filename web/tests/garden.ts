/**
 * A server and a file of its own for every trial, so that none sees another's entries and their order does not
 * matter. Copying a file that is ready costs milliseconds; starting the program on it costs no more.
 */
import { spawn, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { copyFileSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'

/** The day of the demo; its clock stands still at half past eight. */
export const TODAY = '2027-03-09'
/** What a trial begins from: the demo, nothing at all, or one place with one planted system. */
export type Garden = 'demo' | 'empty' | 'first'

export const folder = (name: string) => mkdtempSync(join(tmpdir(), `mopsel-${name}-`))

/** Starts the program and waits until it says where it is. */
export async function start(args: string[]): Promise<{ child: ChildProcess; base: string }> {
  const program = process.env.MOPSEL_BIN
  if (!program) throw new Error('MOPSEL_BIN names no program. Start the trials by `make trial` or `make test`.')
  const env = { ...process.env, MOPSEL_LOG: process.env.MOPSEL_LOG ?? 'error' }
  const child = spawn(program, [...args, '--port', '0'], { env, stdio: ['ignore', 'pipe', 'inherit'] })
  const died = once(child, 'exit').then(([code]) => {
    throw new Error(`${program} ${args.join(' ')} ended with ${code}`)
  })
  const said = once(createInterface({ input: child.stdout! }), 'line') as Promise<[string]>
  const [line] = await Promise.race([said, died])
  died.catch(() => {})
  return { child, base: line.trim().split(' ').pop()! }
}

export interface Served {
  base: string
  /** Its file. */
  file: string
  stop: () => Promise<void>
}

/** A server on a fresh file. */
export async function serve(garden: Garden): Promise<Served> {
  const own = folder('trial')
  const file = join(own, 'garden.db')
  const demo = garden === 'demo'
  if (demo) copyFileSync(process.env.MOPSEL_READY!, file)
  const { child, base } = await start(
    demo ? ['demo', '--keep', '--today', TODAY, '--db', file] : ['serve', '--db', file],
  )
  const stop = async () => {
    const ended = once(child, 'exit')
    child.kill('SIGKILL')
    await ended
    rmSync(own, { recursive: true, force: true })
  }
  if (garden === 'first') await firstSystem(base)
  return { base, file, stop }
}

const EVERY_DAY = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday']

/** A flat, its caretaker, a still-water crate, and pak choi in it. */
async function firstSystem(base: string) {
  const [place, wren, crate, crop] = Array.from({ length: 4 }, () => crypto.randomUUID())
  const system = {
    card: 'system',
    name: 'Window crate',
    kind: 'still_water',
    traits: { opaque: true },
    ports: 6,
    reservoir: {
      shape: {
        form: 'tapered',
        rim_length_mm: 400,
        rim_width_mm: 280,
        floor_length_mm: 340,
        floor_width_mm: 225,
        height_mm: 190,
      },
      minimum: 6,
      working: 14,
      maximum: 16,
    },
    measuring: 'drop_kit',
    refill: 'one_inch',
    change_days: 14,
    since: '2026-01-01',
  }
  const today = new Date().toISOString().slice(0, 10)
  const pakChoi = { crop: 'Pak choi', group: 'leafy', ports: '1', stage: 'seedling', planted_on: today }
  const cards = [
    { id: place, body: { card: 'place', name: 'Tern Street flat', zone: 'Europe/London', open_days: EVERY_DAY } },
    { id: wren, parent: place, body: { card: 'person', name: 'Wren', role: 'caretaker' } },
    { id: crate, parent: place, body: system },
    { id: crop, parent: crate, body: { card: 'planting', ...pakChoi } },
  ]
  for (const card of cards) {
    const made = await fetch(`${base}/api/cards`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', 'Mopsel-Person': wren! },
      body: JSON.stringify(card),
    })
    if (made.status !== 201) throw new Error(`${made.status}: ${await made.text()}`)
  }
}
