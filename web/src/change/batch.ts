/** The batch of a change: what the plan says, and what was typed instead. */
import type { Schemas } from '../api/client'

type Batch = Schemas['Batch']

/** Whether the same products went in, however much of each. */
export const sameProducts = (a: Batch, b: Batch) =>
  a.used.length === b.used.length && a.used.every((used, i) => used.product === b.used[i]!.product)

/** The plan's batch with the amounts that were typed; another recipe takes nothing over from the one before. */
export function asTyped(typed: Batch | null | undefined, planned: Batch | null): Batch | null {
  if (!planned) return typed ?? null
  if (!typed || !sameProducts(typed, planned) || typed.fresh !== planned.fresh) return planned
  return { ...planned, used: planned.used.map((used, i) => ({ ...used, amount: typed.used[i]!.amount })) }
}
