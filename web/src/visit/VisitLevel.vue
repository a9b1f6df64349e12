<script setup lang="ts">
/** The level: as a height where the vessel has one, else in litres; the core turns it into a volume. */
import { computed } from 'vue'
import type { Refusal, Schemas, SystemView, Visit } from '../api/client'
import { useUnits } from '../api/units'
import NumberField from '../parts/NumberField.vue'
import { faultOf } from './useVisit'

const props = defineProps<{ view: SystemView; faults: Refusal[]; judgement?: Schemas['Judgement'] | null }>()
const visit = defineModel<Visit>({ required: true })
const units = useUnits(computed(() => props.view.units))
const byHeight = computed(() =>
  visit.value.level ? visit.value.level.by === 'height' : props.view.system.reservoir.shape.form !== 'stated',
)
const pumpRan = computed(() => visit.value.level?.pump_ran ?? true)
const hasPump = computed(() => (props.view.system.traits.drain_back ?? 0) > 0)
const typed = computed<number | null>({
  get: () => {
    const level = visit.value.level
    if (!level) return null
    return level.by === 'height' ? units.value.toLength(level.height_mm) : units.value.toVolume(level.litres)
  },
  set: (value) => put(value, pumpRan.value),
})
function put(value: number | null, ran: boolean) {
  if (value === null) visit.value.level = null
  else if (byHeight.value) visit.value.level = { by: 'height', height_mm: units.value.fromLength(value), pump_ran: ran }
  else visit.value.level = { by: 'volume', litres: units.value.fromVolume(value), pump_ran: ran }
}
const hint = computed(() => {
  const volume = props.judgement?.volume
  if (volume != null && byHeight.value) return `That is ${units.value.toVolume(volume)} ${units.value.volume}.`
  return byHeight.value ? 'From the floor of the vessel up to the water.' : 'Read off the scale on the vessel.'
})
</script>

<template>
  <div class="part">
    <NumberField
      v-model="typed"
      :label="byHeight ? 'Height of the water' : 'Water in the vessel'"
      :unit="byHeight ? units.length : units.volume"
      :wrong="faultOf(faults, 'level')"
      :hint="hint"
    />
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
</style>
