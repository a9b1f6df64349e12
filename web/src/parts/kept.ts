/** What is typed into a form outlives a reload, Back and a refused field, until it is saved or thrown away. */
import { onScopeDispose, watch } from 'vue'

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
  let stop = () => {}
  const forget = () => {
    stop()
    if (key !== null) sessionStorage.removeItem(at)
  }
  const keep = (now: () => T) => {
    if (key === null) return
    stop = watch(
      () => JSON.stringify(now()),
      (text) => sessionStorage.setItem(at, text),
    )
  }
  onScopeDispose(() => stop())
  return { before: read(), keep, forget }
}
