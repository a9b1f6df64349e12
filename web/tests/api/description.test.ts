/**
 * Every operation of the description, asked with values made from its own schemas: no answer is a
 * server's fault, none has a status or a shape that the description lacks, none speaks a parser's language.
 */
import Ajv2020 from 'ajv/dist/2020'
import addFormats from 'ajv-formats'
import fc from 'fast-check'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { serve, type Served } from '../garden'
import { soaking } from '../soak'
import { arbitrary, type Schema } from './arbitrary'

/** As many requests each time, from a seed that is printed; in a soak as many as fit in the time. */
const REQUESTS = soaking ? 1_000_000 : 1000
const SECONDS = Number(process.env.MOPSEL_FUZZ_SECONDS ?? (soaking ? 600 : 120))
const SEED = Number(process.env.MOPSEL_SEED ?? 0) + 1
let BASE = ''
let served: Served
beforeAll(async () => {
  served = await serve('demo')
  BASE = served.base
})
afterAll(() => served.stop())

interface Operation {
  operationId: string
  parameters?: { in: string; name: string; schema: Schema }[]
  requestBody?: { content: Record<string, { schema: Schema } | undefined> }
  responses: Record<string, { content?: Record<string, { schema: Schema }> }>
}
interface Description {
  paths: Record<string, Record<string, Operation>>
  components: { schemas: Record<string, Schema> }
}

/** A picture of one dot. */
const DOT = Uint8Array.from(
  atob('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=='),
  (letter) => letter.charCodeAt(0),
)
const PARSER =
  /unknown variant|invalid type|invalid value|expected one of|EOF while|internally tagged|missing field|a sequence|deserializ|serde|\bstruct\b/i

function validators(description: Description) {
  const ajv = new Ajv2020({ strict: false, allErrors: false })
  addFormats(ajv)
  ajv.addSchema({ $id: 'mopsel', components: description.components })
  const compiled = new Map<string, ReturnType<typeof ajv.compile>>()
  return (schema: Schema) => {
    const text = JSON.stringify(schema).replaceAll('#/components', 'mopsel#/components')
    let validate = compiled.get(text)
    if (!validate) compiled.set(text, (validate = ajv.compile(JSON.parse(text) as Schema)))
    return validate
  }
}

interface Known {
  systems: string[]
  people: string[]
  all: string[]
}

async function ids(): Promise<Known> {
  const get = async (path: string) => (await (await fetch(`${BASE}${path}`)).json()) as Record<string, { id: string }[]>
  const round = await get('/api/round')
  const shelf = await get('/api/shelf')
  const systems = round.systems!.map((one) => one.id)
  const people: string[] = []
  const all = [...systems, ...[...shelf.products!, ...shelf.recipes!].map((one) => one.id)]
  for (const system of systems) {
    const view = await get(`/api/systems/${system}`)
    people.push(...view.people!.map((one) => one.id))
    all.push(...view.plantings!.map((one) => one.id))
  }
  return { systems, people, all: [...all, ...people] }
}

test('every operation answers what it is asked with what its description says', async () => {
  const description = (await (await fetch(`${BASE}/api/openapi.json`)).json()) as Description
  const validate = validators(description)
  const known = await ids()
  const make = (wild: boolean) => arbitrary(description.components.schemas, known.all, wild)
  const operations = Object.entries(description.paths).flatMap(([path, methods]) =>
    Object.entries(methods)
      // The first account shuts the door on whoever asks next; crates/server/tests/door.rs asks behind it.
      .filter(([, operation]) => operation.operationId !== 'make_first')
      .map(([method, operation]) => ({ path, method, operation })),
  )
  const statuses = new Map<string, number>()
  const until = Date.now() + SECONDS * 1000
  const asked = fc.tuple(fc.constantFrom(...operations), fc.boolean()).chain(([{ path, method, operation }, wild]) => {
    const { of, id } = make(wild)
    const there = (name: string, inPath: boolean) =>
      inPath && path.startsWith('/api/systems/')
        ? fc.constantFrom(...known.systems)
        : name === 'Mopsel-Person'
          ? fc.constantFrom(...known.people)
          : id
    const parameters = (operation.parameters ?? []).map((one) =>
      one.name === 'Mopsel-Clock' || one.name === 'Mopsel-Clock-Is-Right'
        ? fc.constant([{ in: one.in, name: one.name }, undefined] as const)
        : fc.tuple(
            fc.constant({ in: one.in, name: one.name }),
            fc.option(
              one.name === 'id' || one.name === 'Mopsel-Person'
                ? wild
                  ? id
                  : there(one.name, one.in === 'path')
                : of(one.schema),
              { nil: undefined },
            ),
          ),
    )
    const json = operation.requestBody?.content['application/json']
    const body = json
      ? of(json.schema)
      : operation.requestBody
        ? fc.constantFrom(
            DOT,
            new Uint8Array(0),
            ...[
              '<svg onload=alert(1)>',
              'BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nDTSTART;VALUE=DATE:20270312\r\nRRULE:FREQ=DAILY;INTERVAL=0\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n',
            ].map((text) => new TextEncoder().encode(text)),
          )
        : fc.constant(undefined)
    return fc.record({
      path: fc.constant(path),
      method: fc.constant(method),
      name: fc.constant(operation.operationId),
      parameters: fc.tuple(...parameters),
      body,
    })
  })
  let runs = 0
  await fc.assert(
    fc.asyncProperty(asked, async ({ path, method, name: operationId, parameters, body }) => {
      const { operation } = operations.find((one) => one.operation.operationId === operationId)!
      if (Date.now() > until) return
      runs++
      const url = new URL(
        path.replace(/\{(\w+)\}/g, (_, name: string) => {
          const found = parameters.find(([one]) => one.in === 'path' && one.name === name)
          return encodeURIComponent(String(found?.[1] ?? 'none'))
        }),
        BASE,
      )
      const headers: Record<string, string> = {}
      for (const [one, value] of parameters as [{ in: string; name: string }, unknown][]) {
        if (value === undefined || value === null) continue
        if (one.in === 'query') url.searchParams.set(one.name, String(value))
        if (one.in === 'header' && /^[\x20-\x7e]*$/.test(String(value))) headers[one.name] = String(value)
      }
      const raw = body instanceof Uint8Array
      const kind = Object.keys(
        operations.find((one) => one.operation.operationId === operationId)!.operation.requestBody?.content ?? {},
      )[0]
      if (body !== undefined) headers['content-type'] = raw ? kind!.replace('image/*', 'image/png') : 'application/json'
      const answer = await fetch(url, {
        method: method.toUpperCase(),
        headers,
        ...(body === undefined
          ? {}
          : { body: raw ? new Blob([body as Uint8Array<ArrayBuffer>]) : JSON.stringify(body) }),
      })
      const name = `${operation.operationId} ${answer.status}`
      statuses.set(name, (statuses.get(name) ?? 0) + 1)
      const text = await answer.text()
      expect(answer.status, `${name}: ${text}`).toBeLessThan(500)
      const described = operation.responses[String(answer.status)]
      expect(described, `${name} is not described: ${text.slice(0, 300)}`).toBeDefined()
      const content = answer.headers.get('content-type')?.split(';')[0]
      if (!text) {
        expect(described!.content, name).toBeUndefined()
        return
      }
      const schema = described!.content?.[content ?? '']?.schema
      expect(schema, `${name} answers ${content}`).toBeDefined()
      if (content?.startsWith('image/') || content === 'application/zip') return
      const valid = validate(schema!)
      expect(valid(JSON.parse(text)), `${name}: ${JSON.stringify(valid.errors)} in ${text.slice(0, 400)}`).toBe(true)
      if (answer.status >= 400) expect(text, name).not.toMatch(PARSER)
    }),
    {
      seed: SEED,
      numRuns: REQUESTS,
      interruptAfterTimeLimit: SECONDS * 1000,
      markInterruptAsFailure: false,
      endOnFailure: true,
    },
  )
  const reached = new Set([...statuses.keys()].map((name) => name.split(' ')[0]))
  expect(operations.map(({ operation }) => operation.operationId).filter((one) => !reached.has(one))).toEqual([])
  console.log(
    `${runs} requests from seed ${SEED}: ${[...statuses]
      .map(([name, count]) => `${name} ×${count}`)
      .sort()
      .join(', ')}`,
  )
})
