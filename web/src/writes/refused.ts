/**
 * What was kept on this device and came back refused, often long after the page it was typed on was closed. It stays
 * here, with what was typed and why it was refused, until somebody has mended it, sent it again or set it aside.
 */
import { ref } from 'vue'
import { ApiError, nowThere } from '../api/client'

export interface Refused {
  /** What it is about: a later success of the same thing takes it away. */
  key: string
  kind: string
  /** The write, just as it was sent. */
  write: Record<string, unknown> & { system: string; by: string }
  /** What it says, a line each, as far as it is known in words. */
  lines: string[]
  why: string
  /** When it came back. */
  at: string
}

const KEPT = 'mopsel.refused.'
/** All of them, the newest first. */
export const refused = ref<Refused[]>([])

function read() {
  const found: Refused[] = []
  for (const key of Object.keys(localStorage).filter((key) => key.startsWith(KEPT))) {
    try {
      found.push(JSON.parse(localStorage.getItem(key)!) as Refused)
    } catch {
      // Not written by this page.
    }
  }
  refused.value = found.sort((a, b) => b.at.localeCompare(a.at))
}
read()
// What another tab keeps or sets aside is known here at once.
globalThis.addEventListener?.('storage', (event) => {
  if (!event.key || event.key.startsWith(KEPT)) read()
})

export function keepRefused(
  key: string,
  kind: string,
  write: Refused['write'],
  error: unknown,
  at = nowThere().toISOString(),
) {
  const yours = error instanceof ApiError ? (error.problem.yours as { lines?: string[] } | undefined) : undefined
  const why = error instanceof Error ? error.message : String(error)
  const kept: Refused = { key, kind, write, lines: yours?.lines ?? [], why, at }
  localStorage.setItem(KEPT + key, JSON.stringify(kept))
  read()
}

/** It arrived after all, was put elsewhere to be mended, or is set aside. Gives the way back. */
export function letGo(key: string): () => void {
  const kept = localStorage.getItem(KEPT + key)
  if (kept === null) return () => {}
  localStorage.removeItem(KEPT + key)
  read()
  return () => {
    localStorage.setItem(KEPT + key, kept)
    read()
  }
}
