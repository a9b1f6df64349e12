/** How a verdict is shown: its word, and whether it is a danger. Only what people or plants last no day for is red. */
import type { Verdict } from '../api/client'

export const isDanger = (verdict: Verdict): boolean =>
  verdict.tone === 'now' && (verdict.rank === 'people' || verdict.rank === 'hours')

const WORD = { fine: 'Fine', watch: 'Watch it', act: 'Act within days', now: 'Act today' }

export const toneWord = (verdict: Verdict): string => (isDanger(verdict) ? 'Act now' : WORD[verdict.tone])

/** The class of its colours. */
export const toneClass = (verdict: Verdict): string =>
  isDanger(verdict) ? 'now' : verdict.tone === 'now' ? 'act' : verdict.tone
