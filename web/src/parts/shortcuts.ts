/** Single keys, each with what it does, live while their screen is open and no field has the focus. */
import { onBeforeUnmount, onMounted, shallowReactive } from 'vue'

export interface Shortcut {
  says: string
  run: () => unknown
}

const live = shallowReactive(new Map<string, Shortcut>())
export const shortcuts = live

function typing(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
}

function heard(event: KeyboardEvent) {
  if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return
  if (document.querySelector('[role="dialog"]')) return
  const shortcut = live.get(event.key)
  if (!shortcut) return
  event.preventDefault()
  shortcut.run()
}

let users = 0

export function useShortcuts(keys: Record<string, Shortcut>) {
  onMounted(() => {
    if (users++ === 0) window.addEventListener('keydown', heard)
    for (const [key, shortcut] of Object.entries(keys)) live.set(key, shortcut)
  })
  onBeforeUnmount(() => {
    for (const [key, shortcut] of Object.entries(keys)) if (live.get(key) === shortcut) live.delete(key)
    if (--users === 0) window.removeEventListener('keydown', heard)
  })
}
