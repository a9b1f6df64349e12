/** Values made from the description's own schemas: mostly what it allows, now and then what it does not. */
import fc from 'fast-check'

export type Schema = Record<string, unknown>

const HOSTILE: unknown[] = [
  null,
  -1,
  1e9,
  1e308,
  '',
  '\u0000',
  '\u202eabc',
  '<b>x</b>',
  "'; DROP TABLE entry; --",
  'x'.repeat(3000),
  [],
  {},
  true,
  '9999-12-31',
  '2027-13-45T99:99:99Z',
  'NaN',
]

/** `known` are ids that are there, so that more than refusals is reached; `wild` strews in what is not allowed. */
export function arbitrary(schemas: Record<string, Schema>, known: string[], wild: boolean) {
  const id = fc.oneof({ weight: 4, arbitrary: fc.constantFrom(...known) }, fc.uuid())

  function of(schema: Schema, depth: number): fc.Arbitrary<unknown> {
    if (typeof schema.$ref === 'string') {
      const name = schema.$ref.split('/').pop()!
      if (depth > 7) return fc.constant(null)
      const inner = of(schemas[name]!, depth + 1)
      return wild ? fc.oneof({ weight: 12, arbitrary: inner }, odd) : inner
    }
    if (Array.isArray(schema.enum)) return fc.constantFrom(...(schema.enum as unknown[]))
    const parts = (schema.oneOf ?? schema.anyOf) as Schema[] | undefined
    if (parts) return fc.oneof(...parts.map((part) => of(part, depth)))
    if (Array.isArray(schema.allOf))
      return fc
        .tuple(...(schema.allOf as Schema[]).map((part) => of(part, depth)))
        .map((all) => Object.assign({}, ...all.filter((one) => one && typeof one === 'object')) as unknown)
    const types = Array.isArray(schema.type) ? (schema.type as string[]) : [String(schema.type)]
    return fc.oneof(...types.map((type) => plain(type, schema, depth)))
  }

  function plain(type: string, schema: Schema, depth: number): fc.Arbitrary<unknown> {
    switch (type) {
      case 'null':
        return fc.constant(null)
      case 'boolean':
        return fc.boolean()
      case 'integer':
        return wild ? fc.oneof(fc.integer({ min: 0, max: 12 }), fc.integer()) : fc.integer({ min: 1, max: 12 })
      case 'number': {
        const [min, max] = [Number(schema.minimum ?? 0.1), Number(schema.maximum ?? 20)]
        const likely = fc.double({ min, max: Math.min(max, min + 20), noNaN: true })
        return wild ? fc.oneof(likely, fc.double({ noDefaultInfinity: true, noNaN: true })) : likely
      }
      case 'array':
        return fc.array(of((schema.items as Schema | undefined) ?? {}, depth + 1), { maxLength: 3 })
      case 'object': {
        const properties = Object.entries((schema.properties as Record<string, Schema> | undefined) ?? {})
        const required = new Set((schema.required as string[] | undefined) ?? [])
        const record = fc.record(Object.fromEntries(properties.map(([key, inner]) => [key, of(inner, depth + 1)])), {
          requiredKeys: [...required].filter((key) => properties.some(([name]) => name === key)),
        })
        const more = schema.additionalProperties
        if (!more || typeof more !== 'object') return record
        const names = fc.constantFrom('ph', 'ec', 'look_in', 'level', 'drain', 'odd')
        return fc.dictionary(names, of(more as Schema, depth + 1), { maxKeys: 2 })
      }
      default:
        break
    }
    if (schema.format === 'uuid') return id
    if (schema.format === 'date') return fc.constantFrom('2027-03-01', '2027-03-09', '1999-01-01', '9999-12-31')
    if (schema.format === 'date-time')
      return fc.constantFrom('2027-03-09T08:00:00Z', '2027-02-01T10:00:00+01:00', '2031-01-01T00:00:00Z')
    return fc.oneof(
      fc.constantFrom('1-3', '2', 'Kale', 'Europe/London', 'Room 6', 'A note'),
      fc.string({ maxLength: 12 }),
    )
  }

  const odd = fc.constantFrom(...HOSTILE)
  return { of: (schema: Schema) => of(schema, 0), id }
}
