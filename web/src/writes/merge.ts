/** Two versions made on one base, put together part by part. */

type Parts = Record<string, unknown>
const isParts = (value: unknown): value is Parts => typeof value === 'object' && value !== null && !Array.isArray(value)
export const same = (a: unknown, b: unknown): boolean => {
  if (a === b || (a == null && b == null)) return true
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((item, i) => same(item, b[i]))
  if (!isParts(a) || !isParts(b)) return false
  return [...new Set([...Object.keys(a), ...Object.keys(b)])].every((key) => same(a[key], b[key]))
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
