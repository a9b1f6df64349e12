/** How each side is told apart: by its hue, its dashes and its mark, so that none needs the hue alone. */
export type Hue = 'water' | 'alarm' | 'ink' | 'quiet'
export interface Mark {
  hue: Hue
  dash: number[]
  symbol: 'circle' | 'rect' | 'triangle' | 'diamond'
}
const HUES: Hue[] = ['water', 'alarm', 'ink', 'quiet']
const SYMBOLS: Mark['symbol'][] = ['circle', 'rect', 'triangle', 'diamond']
const DASHES = [[], [7, 4], [2, 3]]

export const markOf = (n: number): Mark => ({
  hue: HUES[n % HUES.length] ?? 'ink',
  symbol: SYMBOLS[n % SYMBOLS.length] ?? 'circle',
  dash: DASHES[Math.floor(n / HUES.length) % DASHES.length] ?? [],
})
/** The same as a variable of the page's style. */
export const hueVar = (hue: Hue) => `var(--${hue === 'quiet' ? 'ink-2' : hue})`
