/** A table as comma-separated values (RFC 4180), to copy or to save. A cell that a spreadsheet would run is made text. */
import { notify } from './notice'

export type Cell = string | number | null | undefined

function cell(value: Cell): string {
  if (value === null || value === undefined) return ''
  if (typeof value === 'number') return String(value)
  const safe = /^[=+\-@\t\r]/.test(value) ? `'${value}` : value
  return /[",\r\n]/.test(safe) ? `"${safe.replace(/"/g, '""')}"` : safe
}

export const toCsv = (head: string[], rows: Cell[][]) =>
  [head, ...rows].map((row) => row.map(cell).join(',')).join('\r\n') + '\r\n'

export async function copyCsv(text: string) {
  try {
    await navigator.clipboard.writeText(text)
    notify('Copied as CSV.')
  } catch {
    notify('This browser does not allow copying here: save it instead.')
  }
}

/** With a mark in front by which spreadsheets know the letters. */
export function saveCsv(name: string, text: string) {
  const file = URL.createObjectURL(new Blob(['\ufeff', text], { type: 'text/csv;charset=utf-8' }))
  const link = document.createElement('a')
  link.href = file
  link.download = `${name.replace(/[^\p{L}\p{N}]+/gu, '-').replace(/^-|-$/g, '')}.csv`
  link.click()
  setTimeout(() => URL.revokeObjectURL(file), 10_000)
}
