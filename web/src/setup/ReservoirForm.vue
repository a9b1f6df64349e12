<script setup lang="ts">
/** The vessel: by inner dimensions, by marks, or by stated litres. What it holds is worked out as it is typed. */
import { computed, reactive, ref, watch } from 'vue'
import { api, ApiError, ask, type Schemas } from '../api/client'
import { useChoices } from '../api/queries'
import type { Units } from '../api/units'
import RadioChips from '../controls/RadioChips.vue'
import NumberField from '../parts/NumberField.vue'
import { useAsked } from '../writes/asked'

const props = defineProps<{
  units: Units
  start: Schemas['Reservoir'] | null
  /** Litres that run home when the pump stops: the lines leave room for them. */
  runsHome: number
  /** What it is, where only its size is asked. */
  legend?: string
  /** Whether several vessels may share one water. */
  chain?: boolean
  wrong: (path: string) => string | undefined
}>()
const reservoir = defineModel<Schemas['Reservoir'] | null>({ required: true })
type Form = Schemas['Shape']['form']
const choices = useChoices()
const forms = computed(() => choices<Form>('vessel'))
const sidesOf = (form: Form) => choices<string>(`${form}_side`)
const shape0 = props.start?.shape
const form = ref<Form>(shape0?.form ?? 'stated')
const sides = reactive<Record<string, number | null>>({})
for (const [key, value] of Object.entries(shape0 ?? {}))
  if (key.endsWith('_mm') && typeof value === 'number') sides[key] = props.units.toLength(value)
/** A side as it is kept: shown in inches and not touched, it stays what it was to the millimetre. */
const sideWas = (key: string) =>
  shape0?.form === form.value ? ((shape0 as unknown as Record<string, number>)[key] ?? undefined) : undefined
const stated = ref<number | null>(shape0?.form === 'stated' ? props.units.toVolume(shape0.litres) : null)
/** Several vessels of a size that share one water. */
const many = ref<number | null>(1)
const marks = reactive<{ height: number | null; volume: number | null }[]>(
  shape0?.form === 'marks'
    ? shape0.marks.map((m) => ({ height: props.units.toLength(m.height_mm), volume: props.units.toVolume(m.litres) }))
    : [{ height: null, volume: null }],
)
const own = reactive<Record<'minimum' | 'working' | 'maximum', number | null>>({
  minimum: props.start ? props.units.toVolume(props.start.minimum) : null,
  working: props.start ? props.units.toVolume(props.start.working) : null,
  maximum: props.start ? props.units.toVolume(props.start.maximum) : null,
})

/** What was not touched stays as it was: shown in gallons it is rounded, and saved so it would move the lines. */
function kept(
  now: number,
  was: number | undefined,
  to: (canonical: number) => number,
  from: (shown: number) => number,
) {
  return was !== undefined && to(was) === now ? was : from(now)
}

const shape = computed<Schemas['Shape'] | null>(() => {
  const u = props.units
  if (form.value === 'stated')
    return stated.value === null
      ? null
      : {
          form: 'stated',
          litres: kept(
            stated.value * Math.max(1, Math.round(many.value ?? 1)),
            shape0?.form === 'stated' ? shape0.litres : undefined,
            u.toVolume,
            u.fromVolume,
          ),
        }
  if (form.value === 'marks') {
    const full = marks.filter((m) => m.height !== null && m.volume !== null)
    return full.length
      ? {
          form: 'marks',
          marks: full.map((m) => {
            const was = shape0?.form === 'marks' ? shape0.marks[marks.indexOf(m)] : undefined
            return {
              height_mm: kept(m.height!, was?.height_mm, u.toLength, u.fromLength),
              litres: kept(m.volume!, was?.litres, u.toVolume, u.fromVolume),
            }
          }),
        }
      : null
  }
  if (!sidesOf(form.value).length) return null
  const entries = sidesOf(form.value).map(
    ({ key }) => [key, sides[key] == null ? null : kept(sides[key]!, sideWas(key), u.toLength, u.fromLength)] as const,
  )
  return entries.some(([, v]) => v === null)
    ? null
    : ({ form: form.value, ...Object.fromEntries(entries) } as Schemas['Shape'])
})
/** What the vessel comes to, for what stands there now; what was typed is what is kept. */
interface Asked {
  shape: Schemas['Shape']
  home: number
}
const work = ({ shape: body, home }: Asked, signal?: AbortSignal) =>
  ask(api.POST('/api/shape/preview', { params: { query: { drain_back: home } }, body, ...(signal ? { signal } : {}) }))
const question = (): Asked | null => (shape.value ? { shape: shape.value, home: props.runsHome } : null)
const { answer: preview, refused } = useAsked('shape', question, work, 200)
const fault = computed(() => refused.value?.message ?? '')
const volumes = (found: Schemas['ShapePreview']): Schemas['Reservoir'] => {
  const pick = (key: 'minimum' | 'working' | 'maximum') =>
    own[key] === null
      ? found.suggested[key]
      : kept(own[key]!, props.start?.[key], props.units.toVolume, props.units.fromVolume)
  return { shape: shape.value!, minimum: pick('minimum'), working: pick('working'), maximum: pick('maximum') }
}
watch(
  [preview, () => ({ ...own })],
  () => (reservoir.value = preview.value && shape.value ? volumes(preview.value) : null),
  { immediate: true, deep: true },
)
/** Which sides a vessel has comes from the server: before that is there, nothing is worked out of half of them. */
const known = () =>
  new Promise<void>((ready) => {
    const stop = watch(
      forms,
      (now) => {
        if (!now.length) return
        ready()
        queueMicrotask(() => stop())
      },
      { immediate: true },
    )
  })
/** The vessel as it was typed last, without waiting for a pause in the typing; or why there is none. */
async function settle(): Promise<{ vessel: Schemas['Reservoir'] } | { why: string }> {
  await known()
  const asked = question()
  if (!asked) return { why: 'Say how much the vessel holds.' }
  try {
    return { vessel: volumes(preview.value ?? (await work(asked))) }
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    return { why: error.message }
  }
}
defineExpose({ settle, typed: () => question() !== null })
const suggested = (key: 'minimum' | 'working' | 'maximum') =>
  preview.value ? `Left empty: ${props.units.toVolume(preview.value.suggested[key])} ${props.units.volume}` : undefined
</script>

<template>
  <fieldset class="part">
    <legend class="label">{{ legend ?? 'The vessel' }}</legend>
    <RadioChips v-model="form" label="How its volume is known" :choices="forms" />
    <div v-if="form === 'stated'" class="fields">
      <NumberField
        v-model="stated"
        :label="(many ?? 1) > 1 ? 'Each holds, filled to the rim' : 'Holds, filled to the rim'"
        :unit="units.volume"
        :wrong="fault"
      />
      <NumberField v-if="chain" v-model="many" label="Vessels that share this water" hint="The reservoir among them" />
    </div>
    <template v-else-if="form === 'marks'">
      <div v-for="(mark, i) in marks" :key="i" class="fields">
        <NumberField v-model="mark.height" :label="`Mark ${i + 1}: height`" :unit="units.length" />
        <NumberField v-model="mark.volume" :label="`Mark ${i + 1}: water in it`" :unit="units.volume" />
      </div>
      <p v-if="fault" class="wrong">{{ fault }}</p>
      <button class="button plain" type="button" @click="marks.push({ height: null, volume: null })">
        One more mark
      </button>
      <p class="quiet small">Pour in a known amount, mark the height, and repeat; the last mark is the rim.</p>
    </template>
    <div v-else class="fields">
      <NumberField
        v-for="{ key, name } in sidesOf(form)"
        :key="key"
        :model-value="sides[key] ?? null"
        :label="name"
        :unit="units.length"
        @update:model-value="sides[key] = $event"
      />
    </div>
    <p v-if="fault && form !== 'stated' && form !== 'marks'" class="wrong">{{ fault }}</p>
    <p v-if="preview" role="status">
      Holds <span class="num">{{ units.toVolume(preview.capacity) }} {{ units.volume }}</span> to the rim.
    </p>
    <details v-if="!legend" :open="!!start">
      <summary>Minimum, working and maximum volume</summary>
      <div class="fields three">
        <NumberField
          v-model="own.minimum"
          label="Minimum"
          :unit="units.volume"
          :hint="suggested('minimum')"
          :wrong="wrong('reservoir.minimum')"
        />
        <NumberField
          v-model="own.working"
          label="Working"
          :unit="units.volume"
          :hint="suggested('working')"
          :wrong="wrong('reservoir.working')"
        />
        <NumberField
          v-model="own.maximum"
          label="Maximum"
          :unit="units.volume"
          :hint="suggested('maximum')"
          :wrong="wrong('reservoir.maximum')"
        />
      </div>
    </details>
  </fieldset>
</template>

<style scoped>
.part {
  display: grid;
  gap: 12px;
}
.button {
  justify-self: start;
}
</style>
