<script setup lang="ts">
/** The level: as a height where the vessel has one, else in litres; the core turns it into a volume. */
import { computed, ref, watch } from 'vue'
import type { Refusal, Schemas, SystemView, Visit } from '../api/client'
import { useChoices } from '../api/queries'
import { useUnits } from '../api/units'
import NumberField from '../parts/NumberField.vue'
import { faultOf } from './useVisit'

const props = defineProps<{ view: SystemView; faults: Refusal[]; judgement?: Schemas['Judgement'] | null }>()
const visit = defineModel<Visit>({ required: true })
const choices = useChoices()
const units = useUnits(computed(() => props.view.units))
type Way = Schemas['LevelReading']['by']
const usual = (): Way => (props.view.system.reservoir.shape.form === 'stated' ? 'volume' : 'height')
const way = ref<Way>(visit.value.level?.by ?? usual())
watch(
  () => visit.value.level?.by,
  (by) => by && (way.value = by),
)
const byHeight = computed(() => way.value === 'height')
/** What the empty vessel weighs is remembered on the device: it is the same at each visit. */
const KEY = computed(() => `mopsel.tare.${props.view.card.id}`)
const tare = ref<number | null>(Number(localStorage.getItem(KEY.value)) || null)
const pumpRan = computed(() => visit.value.level?.pump_ran ?? true)
const hasPump = computed(() => (props.view.system.traits.drain_back ?? 0) > 0)
const typed = computed<number | null>({
  get: () => {
    const level = visit.value.level
    if (!level) return null
    if (level.by === 'weight') return level.weight
    return level.by === 'height' ? units.value.toLength(level.height_mm) : units.value.toVolume(level.litres)
  },
  set: (value) => put(value, pumpRan.value),
})
function put(value: number | null, ran: boolean) {
  if (value === null) visit.value.level = null
  else if (way.value === 'weight')
    visit.value.level = { by: 'weight', weight: value, tare: tare.value ?? 0, pump_ran: ran }
  else if (byHeight.value) visit.value.level = { by: 'height', height_mm: units.value.fromLength(value), pump_ran: ran }
  else visit.value.level = { by: 'volume', litres: units.value.fromVolume(value), pump_ran: ran }
}
function weighed(empty: number | null) {
  tare.value = empty
  if (empty !== null) localStorage.setItem(KEY.value, String(empty))
  put(typed.value, pumpRan.value)
}
/** Another way of reading takes nothing of the old one along. */
function read(by: Way) {
  way.value = by
  visit.value.level = null
}
const hint = computed(() => {
  const volume = props.judgement?.volume
  if (way.value === 'weight' && volume == null) return 'The vessel with its water, on a scale.'
  if (volume != null && way.value !== 'volume') return `That is ${units.value.toVolume(volume)} ${units.value.volume}.`
  return byHeight.value ? 'From the floor of the vessel up to the water.' : 'Read off the scale on the vessel.'
})
</script>

<template>
  <div class="part">
    <NumberField
      :key="way"
      v-model="typed"
      :label="byHeight ? 'Height of the water' : way === 'weight' ? 'Vessel and water weigh' : 'Water in the vessel'"
      :unit="byHeight ? units.length : way === 'weight' ? 'kg' : units.volume"
      :wrong="faultOf(faults, 'level')"
      :hint="hint"
    />
    <NumberField
      v-if="way === 'weight'"
      :model-value="tare"
      label="Empty it weighs"
      unit="kg"
      hint="Remembered on this device"
      @update:model-value="weighed"
    />
    <p class="ways">
      <button
        v-for="w in choices<Way>('level_by').filter(
          (one) => one.key !== way && (one.key !== 'height' || usual() === 'height'),
        )"
        :key="w.key"
        class="button plain"
        type="button"
        @click="read(w.key)"
      >
        {{ w.name }}
      </button>
    </p>
    <label v-if="hasPump" class="tick">
      <input
        type="checkbox"
        :checked="!pumpRan"
        :disabled="typed === null"
        @change="put(typed, !($event.target as HTMLInputElement).checked)"
      />
      The pump was off: take the drain-back off
    </label>
  </div>
</template>

<style scoped>
.part {
  display: grid;
  gap: 8px;
}
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
}
</style>
