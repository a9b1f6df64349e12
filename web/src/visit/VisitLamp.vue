<script setup lang="ts">
/** The lamp: for how many hours it shines, and how far it hangs over the tallest leaf. */
import { computed } from 'vue'
import type { Refusal, SystemView, Visit } from '../api/client'
import { useUnits } from '../api/units'
import NumberField from '../parts/NumberField.vue'
import { faultOf } from './useVisit'

const props = defineProps<{
  view: SystemView
  faults: Refusal[]
  /** What is wanted stands above already. */ bare?: boolean
}>()
const visit = defineModel<Visit>({ required: true })
const units = useUnits(computed(() => props.view.units))
const put = (part: 'hours' | 'gap', value: number | null) => {
  const lamp = { ...visit.value.lamp, [part]: value }
  visit.value.lamp = lamp.hours == null && lamp.gap == null ? null : lamp
}
const hours = computed({ get: () => visit.value.lamp?.hours ?? null, set: (value) => put('hours', value) })
const gap = computed({
  get: () => (visit.value.lamp?.gap == null ? null : units.value.toLength(visit.value.lamp.gap)),
  set: (value) => put('gap', value == null ? null : units.value.fromLength(value)),
})
const seen = computed(() => props.view.lamp)
const fault = computed(() => faultOf(props.faults, 'lamp'))
</script>

<template>
  <div v-if="seen" class="lamp">
    <p v-if="!bare" class="small quiet">{{ seen.wanted }}</p>
    <div class="fields">
      <NumberField
        v-model="hours"
        label="Hours of light a day, by its timer"
        unit="hours"
        :wrong="fault"
        :hint="seen.hours != null ? `${seen.hours} last` : undefined"
      />
      <NumberField
        v-model="gap"
        label="From the lamp to the tallest leaf"
        :unit="units.length"
        :hint="seen.gap != null ? `${units.toLength(seen.gap)} ${units.length} last` : undefined"
      />
    </div>
  </div>
</template>

<style scoped>
.lamp {
  display: grid;
  gap: 8px;
  padding: 4px 0 12px 40px;
}
@media (max-width: 600px) {
  .lamp {
    padding-left: 0;
  }
}
</style>
