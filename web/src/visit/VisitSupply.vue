<script setup lang="ts">
/** What is left in the top-off reservoir behind the float valve. */
import { computed, ref } from 'vue'
import type { Visit } from '../api/client'
import { useUnits } from '../api/units'
import NumberField from '../parts/NumberField.vue'
import type { NumbersGiven } from './readings'
import { faultOf } from './useVisit'

const props = defineProps<NumbersGiven>()
const visit = defineModel<Visit>({ required: true })
const units = useUnits(computed(() => props.view.units))
const left = computed<number | null>({
  get: () => (visit.value.supply == null ? null : units.value.toVolume(visit.value.supply)),
  set: (value) => (visit.value.supply = value === null ? null : units.value.fromVolume(value)),
})
const high = computed<number | null>({
  get: () => (visit.value.supply_height_mm == null ? null : units.value.toLength(visit.value.supply_height_mm)),
  set: (value) => (visit.value.supply_height_mm = value === null ? null : units.value.fromLength(value)),
})
/** Where its size is known, a rule in the water is enough. */
const sized = computed(() => !!props.view.system.drum && props.view.system.drum.form !== 'stated')
const byHeight = ref(sized.value && visit.value.supply == null)
function other() {
  byHeight.value = !byHeight.value
  visit.value.supply = visit.value.supply_height_mm = null
}
const known = computed(() => props.view.outlook.find((one) => one.of === 'supply'))
const hint = computed(() =>
  known.value?.points.length
    ? `Likely ${units.value.toVolume(known.value.points[0]!.value)} ${units.value.volume} by now.`
    : known.value?.said,
)
</script>

<template>
  <NumberField
    v-if="byHeight"
    v-model="high"
    label="Height of the water in the top-off reservoir"
    :unit="units.length"
    :row="row"
    :wrong="faultOf(faults, 'supply_height_mm')"
    :hint="hint"
  />
  <NumberField
    v-else
    v-model="left"
    label="Left in the top-off reservoir"
    :unit="units.volume"
    :row="row"
    :wrong="faultOf(faults, 'supply')"
    :hint="hint"
  />
  <button v-if="sized" class="button plain other" type="button" @click="other">
    {{ byHeight ? `Enter it in ${units.volume} instead` : 'Enter its height instead' }}
  </button>
</template>

<style scoped>
.other {
  justify-self: start;
}
</style>
