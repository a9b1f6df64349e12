<script setup lang="ts">
/** What was added, with what may be added in sight. */
import { toRef } from 'vue'
import { RouterLink } from 'vue-router'
import type { Visit } from '../api/client'
import ChoiceChips from '../controls/ChoiceChips.vue'
import NumberField from '../parts/NumberField.vue'
import { useTopOff, type NumbersGiven } from './readings'
import { faultOf } from './useVisit'

const props = defineProps<NumbersGiven>()
const visit = defineModel<Visit>({ required: true })
const { units, typed, waters, water, strength, strengthHint, unit, hint } = useTopOff(
  toRef(props, 'view'),
  visit,
  () => props.judgement ?? null,
)
</script>

<template>
  <div class="part">
    <NumberField
      v-model="typed"
      label="Water added"
      :unit="units.volume"
      :row="row"
      :wrong="faultOf(faults, 'top_off')"
      :hint="past ? undefined : hint"
    />
    <ChoiceChips v-if="visit.top_off" v-model="water" label="What was added" :choices="waters" keep />
    <NumberField
      v-if="visit.top_off && water === 'feed'"
      v-model="strength"
      label="EC of what was added, if measured"
      :unit="unit"
      :row="row"
      :hint="strengthHint"
    />
    <RouterLink
      v-if="!row && !past"
      class="button plain"
      :to="{ path: '/bench', query: { for: 'top_off', system: view.card.id } }"
      >Work out on the bench how much of what</RouterLink
    >
  </div>
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
