/** Light or dark: the device's choice until the reader makes their own. */
import { ref } from 'vue'

const KEY = 'mopsel.theme'
const dark = () => window.matchMedia('(prefers-color-scheme: dark)').matches
const stored = () => localStorage.getItem(KEY)

export const theme = ref<'light' | 'dark'>('light')

export function applyTheme() {
  const own = stored()
  theme.value = own === 'light' || own === 'dark' ? own : dark() ? 'dark' : 'light'
  if (own) document.documentElement.dataset.theme = theme.value
}

export function turnTheme() {
  localStorage.setItem(KEY, theme.value === 'dark' ? 'light' : 'dark')
  applyTheme()
}
