/** What is typed into a form that makes something new outlives a reload, Back and a refused field, until it is made. */
import { onScopeDispose, watch } from 'vue'

export interface Kept<T> {
  /** What was typed here before, if anything. */
  before: T | null
  /** Keeps what stands there now. */
  keep: (now: () => T) => void
  /** It was made, or given up. */
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
  let stop = () => {}
  const forget = () => {
    stop()
    if (key !== null) sessionStorage.removeItem(at)
  }
  const keep = (now: () => T) => {
    if (key === null) return
    const first = JSON.stringify(now())
    stop = watch(
      () => JSON.stringify(now()),
      (text) => (text === first ? undefined : sessionStorage.setItem(at, text)),
    )
  }
  onScopeDispose(() => stop())
  return { before: read(), keep, forget }
}
