/** Ports as they are typed, "1-3, 7", and the free ones among them. */
import type { CardView } from '../api/client'

export function portsOf(text: string): Set<number> {
  const found = new Set<number>()
  for (const part of text.split(',')) {
    const [from, to] = part.split('-').map((end) => Number.parseInt(end.trim(), 10))
    if (!from || (to !== undefined && (Number.isNaN(to) || to - from > 2000))) continue
    for (let port = from; port <= (to ?? from); port++) found.add(port)
  }
  return found
}

export function sayPorts(ports: Iterable<number>): string {
  const runs: [number, number][] = []
  for (const port of [...ports].sort((a, b) => a - b)) {
    const last = runs.at(-1)
    if (last && port === last[1] + 1) last[1] = port
    else runs.push([port, port])
  }
  return runs.map(([from, to]) => (from === to ? String(from) : `${from}-${to}`)).join(', ')
}

/** What stands where, of the plantings that are not harvested or put away. */
export function takenBy(plantings: CardView[], except?: string): Map<number, string> {
  const taken = new Map<number, string>()
  for (const { id, archived, body } of plantings) {
    if (archived || id === except || body.card !== 'planting' || body.stage === 'done') continue
    for (const port of portsOf(body.ports)) taken.set(port, body.crop)
  }
  return taken
}
