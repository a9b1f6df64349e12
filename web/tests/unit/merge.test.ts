import fc from 'fast-check'
import { expect, test } from 'vitest'
import { merge, same } from '../../src/writes/merge'

const doc = fc.dictionary(
  fc.constantFrom('ph', 'ec', 'note', 'level'),
  fc.oneof(
    fc.integer({ min: 0, max: 3 }),
    fc.record({ value: fc.integer({ min: 0, max: 3 }), scale: fc.constant('x') }),
  ),
)

test('who changed nothing loses nothing, and what one side changed is kept', () => {
  fc.assert(
    fc.property(doc, doc, (base, theirs) => {
      expect(same(merge(base, base, theirs).merged, theirs)).toBe(true)
      expect(same(merge(base, theirs, base).merged, theirs)).toBe(true)
      expect(merge(base, base, theirs).clashes).toEqual([])
      expect(same(merge(base, theirs, theirs).merged, theirs)).toBe(true)
    }),
  )
})

test('a part that both changed to something else is named, and mine stands', () => {
  const { merged, clashes } = merge({ a: 1, b: 1 }, { a: 2, b: 1, c: 5 }, { a: 3, b: 4 })
  expect(merged).toEqual({ a: 2, b: 4, c: 5 })
  expect(clashes).toEqual(['a'])
})

test('what one side took away is gone', () => {
  expect(merge<Record<string, number>>({ a: 1, b: 2 }, { b: 2 }, { a: 1, b: 2 }).merged).toEqual({ b: 2 })
  expect(same(merge<Record<string, number>>({ a: 1 }, { a: 1 }, {}).merged, {})).toBe(true)
})
