/** The bench's question: typed values in the address, so that it can be shared, and the server's plan. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ApiError, as, ask, type Refusal, type Schemas } from '../api/client'
import type { Units } from '../api/units'
import { useLate } from '../writes/late'
import { unsent } from '../writes/queue'

type PurposeKey = Schemas['Purpose']['for']
type Values = Record<string, string>

/** "18 18 10", "18; 18; 10" or "18,18,10"; a comma between spaces is a decimal one. */
function sizes(typed: string): number[] {
  const parts = /[;\s]/.test(typed.trim()) ? typed.split(/[;\s]+/) : typed.split(',')
  return parts.map((part) => Number(part.replace(/,$/, '').replace(',', '.'))).filter((size) => size > 0)
}

/** For whom the question is read: null until that is known. */
export interface BenchReader {
  units: Units
  scale: Schemas['EcScale']
  by: string | undefined
  /** Whether the meter corrects EC to 25 °C by itself. */
  compensated?: boolean
}
type Whole = Schemas['PlanRequest'] & { by?: string }
interface Planned {
  asked: string
  plan: Schemas['Plan'] | null
  faults: Refusal[]
  failed: string
}

export function useBench(
  reader: () => BenchReader | null,
  purposes: () => Schemas['PurposeView'][],
  options: { planned?: number } = {},
) {
  const route = useRoute()
  const router = useRouter()
  const values = ref<Values>({})

  const read = () => {
    const all: Values = {}
    for (const [key, value] of Object.entries(route.query)) if (typeof value === 'string') all[key] = value
    values.value = all
  }
  read()
  watch(
    () => route.fullPath,
    () => {
      if (route.path === '/bench') read()
    },
  )

  function set(changes: Record<string, string | number | null | undefined>) {
    const next = { ...values.value }
    for (const [key, value] of Object.entries(changes)) {
      if (value === null || value === undefined || value === '') delete next[key]
      else next[key] = String(value)
    }
    values.value = next
    void router.replace({ path: '/bench', query: next })
  }
  const purpose = computed(() => purposes().find((p) => p.key === values.value.for) ?? null)
  const system = computed(() => values.value.system)
  const choose = (key: PurposeKey) => {
    const kept = ['system', 'units', 'scale', 'recipe', 'stage', 'target', 'as_printed', 'source_ec']
    const next: Values = { for: key }
    for (const k of kept) if (values.value[k]) next[k] = values.value[k]
    values.value = next
    void router.push({ path: '/bench', query: next })
  }
  const number = (key: string) => {
    const typed = values.value[key]
    return typed === undefined || !Number.isFinite(Number(typed)) ? null : Number(typed)
  }
  const missing = computed(() => {
    const facts = purpose.value
    if (!facts) return ['for']
    const wanted = [...facts.needs, ...(system.value ? [] : facts.alone)]
    const has = (key: string) => values.value[key] !== undefined || (key === 'ph' && values.value.kit !== undefined)
    return wanted.filter((key) => !has(key))
  })

  /** The question in canonical units. */
  function question({ units, scale, compensated = true }: BenchReader): Schemas['Ask'] | null {
    const facts = purpose.value
    if (!facts || missing.value.length) return null
    const one: Record<string, unknown> = { for: facts.key }
    const ec = (value: number | null) => (value === null ? null : { value, scale })
    for (const field of facts.fields) {
      const value = number(field.key)
      if (value === null || field.key.startsWith('jar_')) continue
      one[field.key] =
        field.kind === 'volume' ? units.fromVolume(value) : field.kind === 'ec' ? { value, scale, compensated } : value
    }
    const low = number('kit')
    if (facts.fields.some((field) => field.key === 'ph')) {
      if (low !== null) one.ph = { by: 'kit', low, high: low + 0.5 }
      else if (number('ph') !== null) one.ph = { by: 'meter', value: number('ph') }
    }
    if (facts.key === 'ph') {
      const [amount, litres] = [number('jar_amount'), number('jar_litres')]
      if (amount !== null) one.jar = { amount, litres: litres === null ? 1 : units.fromVolume(litres) }
    }
    const plain = values.value
    if (facts.key === 'top_off') {
      if (plain.method) one.method = plain.method
      if (number('batch') !== null) one.batch = units.fromVolume(number('batch')!)
    }
    if (facts.key === 'peroxide_dose' && plain.again) one.again = true
    if (facts.key === 'root_bath' && plain.root_stage) one.stage = plain.root_stage
    if (plain.product && ['ph', 'peroxide_dose', 'root_bath'].includes(facts.key)) one.product = plain.product
    const asked: Record<string, unknown> = { purpose: one }
    if (facts.feeds) {
      if (plain.recipe) asked.recipe = plain.recipe
      if (plain.stage) asked.stage = plain.stage
      if (plain.as_printed) asked.as_printed = true
      if (number('target') !== null) asked.target = ec(number('target'))
    }
    if (facts.mixes && plain.mix_in) asked.mix_in = plain.mix_in
    if (number('source_ec') !== null) asked.source_ec = { value: number('source_ec'), scale, compensated }
    for (const key of ['tank_temperature', 'water_temperature'])
      if (number(key) !== null) asked[key] = units.fromTemperature(number(key)!)
    const cans = sizes(plain.cans ?? '')
    if (cans.length)
      asked.containers = cans.map((size, i) => ({
        name: `${size} ${units.volume} can ${i + 1}`,
        holds: units.fromVolume(size),
      }))
    const [holds, marked] = [number('holds'), number('marked')]
    if (holds !== null && marked !== null)
      asked.tools = (['ml', 'g'] as const).map((unit) => ({
        name: unit === 'ml' ? `${holds} mL measure` : 'scale',
        unit,
        holds: unit === 'ml' ? holds : 2000,
        marked_each: unit === 'ml' ? marked : 0.1,
      }))
    return asked as unknown as Schemas['Ask']
  }

  /** What is asked, as one text; empty while something is still missing. */
  const asked = useLate(() => JSON.stringify(whole(reader())), options.planned ?? 160)
  const planning = useQuery({
    queryKey: ['plan', asked],
    queryFn: async ({ signal }): Promise<Planned> => {
      const { by, ...body } = JSON.parse(asked.value) as Whole
      try {
        const plan = await ask(api.POST('/api/bench/plan', { params: { header: as(by) }, body, signal }))
        return { asked: asked.value, plan, faults: [], failed: '' }
      } catch (error) {
        if (!(error instanceof ApiError) || error.offline) throw error
        return { asked: asked.value, plan: null, faults: error.fields, failed: error.message }
      }
    },
    enabled: () => asked.value !== 'null',
    // What is on the screen is what is mixed and then recorded: it does not change under the hands by itself.
    refetchOnWindowFocus: false,
    refetchOnReconnect: false,
    retry: (_, error) => unsent(error),
    staleTime: 0,
    gcTime: 0,
  })
  /** Only the answer to what stands there now: a plan for other numbers is never in sight. */
  const answer = computed(() => {
    const found = planning.data.value
    return found && found.asked === JSON.stringify(whole(reader())) ? found : null
  })
  const plan = computed(() => answer.value?.plan ?? null)
  const faults = computed<Refusal[]>(() => answer.value?.faults ?? [])
  const failed = computed(() => answer.value?.failed ?? (planning.error.value ? planning.error.value.message : ''))
  const waiting = computed(() => whole(reader()) !== null && !answer.value && !planning.error.value)

  function whole(at: BenchReader | null): Whole | null {
    const one = at && question(at)
    if (!one || !at) return null
    const units = (values.value.units ?? 'metric') as Schemas['UnitSystem']
    const where = system.value ? { system: system.value } : { units, ec_scale: at.scale }
    return { ...where, ask: one, ...(at.by ? { by: at.by } : {}) }
  }

  /** The first of how to mend the fault at a field; the whole of it stands with the plan. */
  const fault = (key: string) => {
    const found = faults.value.find((f) => f.field === `ask.purpose.${key}` || f.field === `ask.${key}`)
    return found?.mend.replace(/([.:;]) .*$/s, '.').replace(/[:;]\.$/, '.')
  }
  return { values, set, choose, purpose, system, number, missing, plan, faults, failed, fault, waiting }
}

export type Bench = ReturnType<typeof useBench>
