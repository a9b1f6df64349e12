<script setup lang="ts">
/** What was added, with what may be added in sight. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Refusal, Schemas, SystemView, Visit } from '../api/client'
import { useKnowledge } from '../api/queries'
import { meterScale, scaleName, useUnits } from '../api/units'
import ChoiceChips from '../controls/ChoiceChips.vue'
import NumberField from '../parts/NumberField.vue'
import { faultOf } from './useVisit'

const props = defineProps<{ view: SystemView; faults: Refusal[]; judgement?: Schemas['Judgement'] | null }>()
const visit = defineModel<Visit>({ required: true })
const units = useUnits(computed(() => props.view.units))
const room = computed(() => props.judgement?.room ?? props.view.room)
const typed = computed<number | null>({
  get: () => (visit.value.top_off ? units.value.toVolume(visit.value.top_off.litres) : null),
  set: (value) =>
    (visit.value.top_off =
      value === null
        ? null
        : { ...(visit.value.top_off ?? { water: 'plain' as const }), litres: units.value.fromVolume(value) }),
})
const kind = computed(() => visit.value.top_off?.water ?? 'plain')
const ready = computed(() => props.view.last.find((value) => value.subject === 'premixed'))
const waters = computed(() => [
  { key: 'plain' as const, name: 'Plain water' },
  { key: 'feed' as const, name: 'With feed' },
  ...(ready.value ? [{ key: 'premixed' as const, name: `From the ${ready.value.said}` }] : []),
])
const water = computed({
  get: () => kind.value,
  set: (to) => {
    if (visit.value.top_off && to) visit.value.top_off = { litres: visit.value.top_off.litres, water: to }
  },
})
const { data: knowledge } = useKnowledge()
const scale = computed(() => knowledge.value?.scales.find((s) => s.key === meterScale(props.view))?.per_ms_cm ?? 1)
const strength = computed<number | null>({
  get: () => {
    const ec = visit.value.top_off?.water === 'feed' ? visit.value.top_off.ec : null
    return ec == null ? null : Number((ec * scale.value).toFixed(scale.value === 1 ? 3 : 0))
  },
  set: (value) => {
    if (visit.value.top_off)
      visit.value.top_off = {
        litres: visit.value.top_off.litres,
        water: 'feed',
        ec: value === null ? null : value / scale.value,
      }
  },
})
const hint = computed(() =>
  room.value
    ? `Room for ${units.value.toVolume(room.value.litres)} ${units.value.volume} now. ${room.value.reason}`
    : 'Read the level first, to know how much fits.',
)
</script>

<template>
  <div class="part">
    <NumberField
      v-model="typed"
      label="Water added"
      :unit="units.volume"
      :wrong="faultOf(faults, 'top_off')"
      :hint="hint"
    />
    <ChoiceChips v-if="visit.top_off" v-model="water" label="What was added" :choices="waters" keep />
    <NumberField
      v-if="visit.top_off && kind === 'feed'"
      v-model="strength"
      label="EC of what was added, if measured"
      :unit="scaleName(meterScale(view))"
    />
    <RouterLink class="small" :to="{ path: '/bench', query: { for: 'top_off', system: view.card.id } }"
      >Work out how much of what on the bench</RouterLink
    >
  </div>
</template>

<style scoped>
.part {
  display: grid;
  gap: 12px;
}
</style>
