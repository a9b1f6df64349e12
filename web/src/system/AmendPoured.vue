<script setup lang="ts">
/** What was poured, typed again: a change, a correction, a mix or a treatment, with its products, amounts and readings. */
import { computed, defineAsyncComponent, reactive, ref } from 'vue'
import type { Refusal, Schemas, SystemView, Visit } from '../api/client'
import { ecRead, meterScale, scaleName, useUnits } from '../api/units'
import NumberField from '../parts/NumberField.vue'
import VisitMeasures from '../visit/VisitMeasures.vue'
import VisitRoots from '../visit/VisitRoots.vue'
import AmendProducts from './AmendProducts.vue'

const props = defineProps<{
  view: SystemView
  at: string
  faults: Refusal[]
  wrong: (path: string) => string | undefined
}>()
const body = defineModel<Schemas['Body']>({ required: true })
/** Loaded when it is wanted: mostly one number was wrong. */
const AmendChange = defineAsyncComponent(() => import('./AmendChange.vue'))
const more = ref(false)
const units = useUnits(computed(() => props.view.units))
const set = (changes: object) => (body.value = { ...body.value, ...changes } as Schemas['Body'])
const volume = (key: 'volume_after' | 'heel' | 'litres') => {
  const found = (body.value as Record<string, unknown>)[key]
  return typeof found === 'number' ? units.value.toVolume(found) : null
}
/** The products, wherever this kind of entry keeps them; a batch that held none may get some. */
const used = computed<Schemas['Used'][] | null>({
  get: () => {
    if (body.value.kind === 'correction') return [body.value.dosed]
    return 'batch' in body.value || body.value.kind === 'change' ? (body.value.batch?.used ?? []) : null
  },
  set: (now) => {
    if (body.value.kind === 'correction') return set({ dosed: now![0] })
    if (body.value.kind !== 'change' && body.value.kind !== 'premix') return
    const whole = body.value.kind === 'change' ? body.value.volume_after : body.value.litres
    set({ batch: { ...(body.value.batch ?? { fresh: whole }), used: now } })
  },
})
/** A number stays on the scale on which it was read. */
const as = (read: Schemas['EcReading'] | null | undefined) => (read ? { scale: read.scale } : {})
const batch = (changes: Partial<Schemas['Batch']>) =>
  'batch' in body.value && body.value.batch && set({ batch: { ...body.value.batch, ...changes } })
const acids = ['ph_up', 'ph_down'] as Schemas['ProductKind'][]
/** pH, EC and temperature are typed here as on a visit. */
const part = (key: 'ph' | 'ec' | 'temperature' | 'roots') => ({
  get: () => {
    const from = key === 'roots' && body.value.kind === 'change' ? body.value.parts : body.value
    return ((from as Record<string, unknown> | null | undefined)?.[key] ?? null) as never
  },
  set: (now: unknown) => {
    if (key !== 'roots') set({ [key]: now })
    else if (body.value.kind === 'change') set({ parts: { ...body.value.parts, roots: now } })
  },
})
const measures = reactive(
  Object.defineProperties({} as Visit, {
    ph: { enumerable: true, ...part('ph') },
    ec: { enumerable: true, ...part('ec') },
    temperature: { enumerable: true, ...part('temperature') },
    roots: { enumerable: true, ...part('roots') },
  }),
) as Visit
const volumes = computed<['volume_after' | 'heel' | 'litres', string][]>(() => {
  if (body.value.kind === 'change')
    return [
      ['volume_after', 'Water afterwards'],
      ['heel', 'Old water left in'],
    ]
  if (body.value.kind === 'correction') return [['litres', 'Water it went into']]
  return body.value.kind === 'premix' ? [['litres', 'Amount of feed kept']] : []
})
</script>

<template>
  <div class="fields">
    <NumberField
      v-for="[key, label] in volumes"
      :key="key"
      :model-value="volume(key)"
      :label="label"
      :unit="units.volume"
      :wrong="wrong(key)"
      @update:model-value="set({ [key]: $event === null ? null : units.fromVolume($event) })"
    />
    <NumberField
      v-if="body.kind === 'treatment'"
      :model-value="body.amount_ml ?? null"
      label="Amount"
      unit="mL"
      :wrong="wrong('amount_ml')"
      @update:model-value="set({ amount_ml: $event })"
    />
    <NumberField
      v-if="body.kind === 'premix'"
      :model-value="body.keeps_days ?? null"
      label="Keeps for"
      unit="days"
      :wrong="wrong('keeps_days')"
      @update:model-value="set({ keeps_days: $event === null ? null : Math.round($event) })"
    />
  </div>
  <AmendProducts v-if="used" v-model="used" :kinds="body.kind === 'correction' ? acids : undefined" :wrong="wrong" />
  <div v-if="'batch' in body && body.batch" class="fields">
    <NumberField
      v-if="body.kind === 'change'"
      :model-value="units.toVolume(body.batch.fresh)"
      label="Fresh water mixed"
      :unit="units.volume"
      :wrong="wrong('batch.fresh')"
      @update:model-value="$event !== null && batch({ fresh: units.fromVolume($event) })"
    />
    <NumberField
      :model-value="body.batch.ec?.value ?? null"
      label="EC of the fresh batch"
      :unit="scaleName(body.batch.ec?.scale ?? meterScale(view))"
      :wrong="wrong('batch.ec')"
      @update:model-value="batch({ ec: $event === null ? null : { ...ecRead(view, $event), ...as(body.batch.ec) } })"
    />
  </div>
  <VisitMeasures v-if="body.kind === 'change'" v-model="measures" past :view="view" :faults="faults" />
  <details v-if="body.kind === 'change'" @toggle="more ||= ($event.target as HTMLDetailsElement).open">
    <summary>How it went</summary>
    <AmendChange v-if="more" v-model="body" :view="view" :at="at" :wrong="wrong" />
  </details>
  <details v-if="body.kind === 'change' && body.parts">
    <summary>Roots</summary>
    <VisitRoots v-model="measures" :faults="faults" />
  </details>
  <div class="field">
    <label for="poured-note">Note</label>
    <textarea
      id="poured-note"
      :value="('note' in body && body.note) || ''"
      rows="2"
      maxlength="2000"
      @input="set({ note: ($event.target as HTMLTextAreaElement).value || null })"
    ></textarea>
  </div>
</template>
