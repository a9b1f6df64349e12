/** Two versions made on one base, put together part by part. */

type Parts = Record<string, unknown>
const isParts = (value: unknown): value is Parts => typeof value === 'object' && value !== null && !Array.isArray(value)
export const same = (a: unknown, b: unknown): boolean => {
  if (a === b || (a == null && b == null)) return true
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((item, i) => same(item, b[i]))
  if (!isParts(a) || !isParts(b)) return false
  return [...new Set([...Object.keys(a), ...Object.keys(b)])].every((key) => same(a[key], b[key]))
}

/** What is said beyond what was known: the parts that are new or say something else, and of lists only what was added. */
export function beyond<T extends object>(known: T | null, says: T): Partial<T> {
  const before = (known ?? {}) as Parts
  const added = (part: unknown, was: unknown) =>
    Array.isArray(part) && Array.isArray(was) ? part.filter((item) => !was.some((one) => same(one, item))) : part
  return Object.fromEntries(
    Object.entries(says)
      .filter(([key, part]) => part != null && !same(part, before[key]))
      .map(([key, part]) => [key, added(part, before[key])])
      .filter(([, part]) => !Array.isArray(part) || part.length > 0),
  ) as Partial<T>
}

/** `clashes` names the parts that both sides changed, each to something else; there it is mine that stands. */
export function merge<T>(base: T, mine: T, theirs: T, path = ''): { merged: T; clashes: string[] } {
  if (same(mine, theirs) || same(theirs, base)) return { merged: mine, clashes: [] }
  if (same(mine, base)) return { merged: theirs, clashes: [] }
  if (!isParts(mine) || !isParts(theirs)) return { merged: mine, clashes: [path] }
  const before: Parts = isParts(base) ? base : {}
  const merged: Parts = {}
  const clashes: string[] = []
  for (const key of new Set([...Object.keys(mine), ...Object.keys(theirs)])) {
    const part = merge(before[key], mine[key], theirs[key], path ? `${path}.${key}` : key)
    if (part.merged !== undefined) merged[key] = part.merged
    clashes.push(...part.clashes)
  }
  return { merged: merged as T, clashes }
}
