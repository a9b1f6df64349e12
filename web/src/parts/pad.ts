/** The large pad for numbers: on a screen that is touched, unless the device's own keys are wanted. */
import { ref, watch } from 'vue'

const KEY = 'mopsel.pad'
const kept = localStorage.getItem(KEY)
const coarse = window.matchMedia?.('(pointer: coarse)').matches ?? false

/** Whether the pad stands in for the device's own keyboard. */
export const padded = ref(kept === null ? coarse : kept === 'on')
/** Whether there is a choice: where keys are pressed with a mouse, none is needed. */
export const touched = coarse
watch(padded, (on) => localStorage.setItem(KEY, on ? 'on' : 'off'))

export const padFields = (within: ParentNode) => [
  ...within.querySelectorAll<HTMLInputElement>('input[data-pad]:not([disabled])'),
]

/** Types a key of the pad into the field that has the focus, as the device's own would. */
export function press(key: string) {
  const field = document.activeElement
  if (!(field instanceof HTMLInputElement) || field.dataset.pad === undefined) return
  const from = field.selectionStart ?? field.value.length
  const to = field.selectionEnd ?? from
  if (key === 'erase') field.setRangeText('', from === to ? Math.max(0, from - 1) : from, to, 'end')
  else field.setRangeText(key, from, to, 'end')
  field.dispatchEvent(new Event('input', { bubbles: true }))
}

/** To the next number of the screen; past the last one, to what closes it. */
export function nextField(within: ParentNode) {
  const fields = padFields(within)
  const at = fields.indexOf(document.activeElement as HTMLInputElement)
  const next = fields[at + 1] ?? within.querySelector<HTMLElement>('[data-last]')
  next?.focus()
  if (next instanceof HTMLInputElement) next.select()
  next?.scrollIntoView({ block: 'nearest' })
}
