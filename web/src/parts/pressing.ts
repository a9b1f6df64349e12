/** Whether a finger or the mouse is down: until what it presses has been told of it, nothing should move under it. */
import { onScopeDispose, ref, type Ref } from 'vue'

export function usePressing(): Ref<boolean> {
  const pressing = ref(false)
  const down = () => (pressing.value = true)
  // The click comes after the release.
  const up = () => setTimeout(() => (pressing.value = false), 0)
  const on = { capture: true, passive: true }
  const ends = ['pointerup', 'pointercancel', 'blur']
  window.addEventListener('pointerdown', down, on)
  for (const end of ends) window.addEventListener(end, up, on)
  onScopeDispose(() => {
    window.removeEventListener('pointerdown', down, on)
    for (const end of ends) window.removeEventListener(end, up, on)
  })
  return pressing
}
