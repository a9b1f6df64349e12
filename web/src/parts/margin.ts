/** A margin as it is read: the number and its words apart, so that the number can be set large. */
export function readMargin(days: number): { number: string; words: string } {
  const size = Math.abs(days)
  const number = size >= 9.95 ? size.toFixed(0) : size.toFixed(1)
  return { number, words: `${number === '1.0' ? 'day' : 'days'} ${days < 0 ? 'past its margin' : 'of margin'}` }
}
