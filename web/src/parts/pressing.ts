/** Whether a finger or the mouse is down: until what it presses has been told of it, nothing should move under it. */
import { onScopeDispose, ref, type Ref } from 'vue'

/** A touch is told as a click a while after the finger has gone, in milliseconds; where none follows, this is all. */
const CLICK_FOLLOWS = 400

export function usePressing(): Ref<boolean> {
  const pressing = ref(false)
  let timer: ReturnType<typeof setTimeout> | undefined
  const release = (after: number) => {
    clearTimeout(timer)
    timer = setTimeout(() => (pressing.value = false), after)
  }
  const told: [string, (event: Event) => void][] = [
    ['pointerdown', () => (clearTimeout(timer), (pressing.value = true))],
    ['pointerup', () => release(CLICK_FOLLOWS)],
    ['click', () => release(0)],
    ['pointercancel', () => release(0)],
    // Of the window, not of a field that loses the focus to what is pressed.
    ['blur', (event) => event.target === window && release(0)],
  ]
  const on = { capture: true, passive: true }
  for (const [what, then] of told) window.addEventListener(what, then, on)
  onScopeDispose(() => {
    clearTimeout(timer)
    for (const [what, then] of told) window.removeEventListener(what, then, on)
  })
  return pressing
}
