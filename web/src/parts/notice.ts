/** One line at the foot of the page after something was done, with the way back. */
import { ref } from 'vue'

export interface Notice {
  text: string
  undo?: () => Promise<void>
}

export const notices = ref<Notice[]>([])

export function notify(text: string, undo?: () => Promise<void>) {
  notices.value = [undo ? { text, undo } : { text }]
}
