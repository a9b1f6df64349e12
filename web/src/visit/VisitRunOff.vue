<script setup lang="ts">
/** What ran out of the pots, where a timer feeds and nothing comes back: its share, EC and pH. */
import { computed } from 'vue'
import type { Schemas, Visit } from '../api/client'
import { ecRead, meterScale, phByKit, readsEc, scaleName, useKit } from '../api/units'
import ChoiceChips from '../controls/ChoiceChips.vue'
import NumberField from '../parts/NumberField.vue'
import type { NumbersGiven } from './readings'
import { faultOf } from './useVisit'

const props = defineProps<NumbersGiven>()
const visit = defineModel<Visit>({ required: true })
const { bands, kitReading } = useKit()
const measuring = computed(() => props.view.system.measuring)
const kit = computed(() => phByKit(measuring.value))
/** Nothing typed leaves nothing behind. */
function put(changes: Partial<Schemas['RunOff']>) {
  const next = { ...visit.value.run_off, ...changes }
  visit.value.run_off = Object.values(next).some((value) => value != null) ? next : null
}
/** A saucer is measured in millilitres, whatever the vessel is. */
const millilitres = (key: 'caught' | 'given') =>
  computed<number | null>({
    get: () => {
      const litres = visit.value.run_off?.[key]
      return litres == null ? null : Math.round(litres * 1000)
    },
    set: (ml) => put({ [key]: ml === null ? null : ml / 1000 }),
  })
const caught = millilitres('caught')
const given = millilitres('given')
const ec = computed<number | null>({
  get: () => visit.value.run_off?.ec?.value ?? null,
  set: (value) => put({ ec: value === null ? null : ecRead(props.view, value) }),
})
const ph = computed<number | null>({
  get: () => (visit.value.run_off?.ph?.by === 'meter' ? visit.value.run_off.ph.value : null),
  set: (value) => put({ ph: value === null ? null : { by: 'meter', value } }),
})
const band = computed<number | null>({
  get: () => (visit.value.run_off?.ph?.by === 'kit' ? visit.value.run_off.ph.low : null),
  set: (low) => put({ ph: kitReading(low) }),
})
const fault = (field: string) => faultOf(props.faults, `run_off.${field}`)
</script>

<template>
  <div class="part" :class="{ row }" role="group" aria-label="Run-off">
    <p v-if="!row" class="quiet">Caught under some pots over one feed. Leave it empty where nobody caught any.</p>
    <NumberField v-model="caught" label="Run-off caught" unit="mL" :row="row" :wrong="fault('caught')" />
    <NumberField
      v-model="given"
      label="Given to the same pots"
      unit="mL"
      :row="row"
      :wrong="fault('given')"
      hint="What as many drippers give into a jug."
    />
    <NumberField
      v-if="readsEc(measuring)"
      v-model="ec"
      label="EC of the run-off"
      :unit="scaleName(meterScale(view))"
      :row="row"
      :wrong="fault('ec')"
    />
    <template v-if="measuring !== 'recipe_only'">
      <div v-if="kit" class="field">
        <ChoiceChips v-model="band" label="pH of the run-off: between which two colours?" :choices="bands" />
        <p class="wrong">{{ fault('ph') }}</p>
      </div>
      <NumberField v-else v-model="ph" label="pH of the run-off" :row="row" :wrong="fault('ph')" />
    </template>
  </div>
</template>

<style scoped>
.part {
  display: grid;
  gap: 12px;
}
.part.row {
  gap: 0;
}
</style>
