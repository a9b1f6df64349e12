/** What is typed into a form outlives a reload, Back and a refused field, until it is saved or thrown away. */
import { onScopeDispose, watch } from 'vue'
import { same } from '../writes/merge'

export interface Kept<T> {
  /** What was typed here before, if anything. */
  before: T | null
  /** Keeps what stands there now. */
  keep: (now: () => T) => void
  /** It was saved, or is thrown away. */
  forget: () => void
}

export function useKept<T>(key: string | null): Kept<T> {
  const at = `mopsel.form.${key}`
  const read = (): T | null => {
    try {
      return key === null ? null : (JSON.parse(sessionStorage.getItem(at) ?? 'null') as T | null)
    } catch {
      return null
    }
  }
  const before = read()
  let stop = () => {}
  const forget = () => {
    stop()
    if (key !== null) sessionStorage.removeItem(at)
  }
  const keep = (now: () => T) => {
    if (key === null) return
    // What the form fills in by itself, once what it needs has come, is nothing that was typed.
    const first = JSON.parse(JSON.stringify(now())) as T
    stop = watch(
      () => JSON.stringify(now()),
      (text) => {
        if (before === null && same(JSON.parse(text), first)) sessionStorage.removeItem(at)
        else sessionStorage.setItem(at, text)
      },
    )
  }
  onScopeDispose(() => stop())
  return { before, keep, forget }
}
