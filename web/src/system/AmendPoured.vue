<script setup lang="ts">
/** What was poured, typed again: a change, a correction, a mix or a treatment, with its amounts. */
import { computed } from 'vue'
import type { Schemas, SystemView } from '../api/client'
import { useUnits, amountUnit } from '../api/units'
import NumberField from '../parts/NumberField.vue'

const props = defineProps<{ view: SystemView; wrong: (path: string) => string | undefined }>()
const body = defineModel<Schemas['Body']>({ required: true })
const units = useUnits(computed(() => props.view.units))
const set = (changes: object) => (body.value = { ...body.value, ...changes } as Schemas['Body'])
const volume = (key: 'volume_after' | 'heel' | 'litres') => {
  const found = (body.value as Record<string, unknown>)[key]
  return typeof found === 'number' ? units.value.toVolume(found) : null
}
const batch = computed(() => ('batch' in body.value ? body.value.batch : null))
function used(i: number, value: number | null) {
  const now = batch.value!
  set({
    batch: {
      ...now,
      used: now.used.map((u, n) => (n === i ? { ...u, amount: { ...u.amount, value: value ?? 0 } } : u)),
    },
  })
}
const volumes = computed<['volume_after' | 'heel' | 'litres', string][]>(() => {
  if (body.value.kind === 'change')
    return [
      ['volume_after', 'Water afterwards'],
      ['heel', 'Old water left in'],
    ]
  if (body.value.kind === 'correction') return [['litres', 'Into so much water']]
  return body.value.kind === 'premix' ? [['litres', 'Stands ready']] : []
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
      v-for="(u, i) in batch?.used ?? []"
      :key="u.product"
      :model-value="Number(u.amount.value.toPrecision(4))"
      :label="u.name"
      :unit="amountUnit(u.amount.unit)"
      :wrong="wrong(`batch.used.${i}`)"
      @update:model-value="used(i, $event)"
    />
    <NumberField
      v-if="body.kind === 'correction'"
      :model-value="body.dosed.amount.value"
      :label="body.dosed.name"
      :unit="amountUnit(body.dosed.amount.unit)"
      :wrong="wrong('dosed')"
      @update:model-value="
        body.kind === 'correction' &&
        set({ dosed: { ...body.dosed, amount: { ...body.dosed.amount, value: $event ?? 0 } } })
      "
    />
    <NumberField
      v-if="body.kind === 'treatment'"
      :model-value="body.amount_ml ?? null"
      label="Amount"
      unit="mL"
      :wrong="wrong('amount_ml')"
      @update:model-value="set({ amount_ml: $event })"
    />
  </div>
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
