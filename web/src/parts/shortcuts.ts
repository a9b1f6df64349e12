/** Single keys, each with what it does, live while their screen is open and no field has the focus. */
import { onBeforeUnmount, onMounted, ref, shallowReactive, watch } from 'vue'

export interface Shortcut {
  says: string
  run: () => unknown
}

const KEY = 'mopsel.keys'
/** Whether single keys do anything: speech input and slips of the hand press them unasked. */
export const keysOn = ref(localStorage.getItem(KEY) !== 'off')
watch(keysOn, (on) => localStorage.setItem(KEY, on ? 'on' : 'off'))

const live = shallowReactive(new Map<string, Shortcut>())
export const shortcuts = live

function typing(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
}

function heard(event: KeyboardEvent) {
  if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return
  if (document.querySelector('[role="dialog"]')) return
  const shortcut = live.get(event.key)
  if (!shortcut || (!keysOn.value && event.key !== '?')) return
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
