<script setup lang="ts">
/** What is left in the top-off reservoir behind the float valve. */
import { computed } from 'vue'
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
const known = computed(() => props.view.outlook.find((one) => one.of === 'supply'))
</script>

<template>
  <NumberField
    v-model="left"
    label="Left in the top-off reservoir"
    :unit="units.volume"
    :row="row"
    :wrong="faultOf(faults, 'supply')"
    :hint="
      known?.points.length ? `Likely ${units.toVolume(known.points[0]!.value)} ${units.volume} by now.` : known?.said
    "
  />
</template>
