<script setup lang="ts">
/** Temperature, pH and EC, as this system is measured. */
import { toRef } from 'vue'
import type { Schemas, Visit } from '../api/client'
import { useChoices } from '../api/queries'
import { scaleName } from '../api/units'
import ChoiceChips from '../controls/ChoiceChips.vue'
import NumberField from '../parts/NumberField.vue'
import { useMeasured, type NumbersGiven } from './readings'
import { faultOf } from './useVisit'
import VisitRunOff from './VisitRunOff.vue'

const props = defineProps<NumbersGiven>()
const visit = defineModel<Visit>({ required: true })
const choices = useChoices()
const m = useMeasured(toRef(props, 'view'), visit)
const { units, kit, bands, band, scale, scaled, more, showPh, showEc, temperature, ph, ec } = m
const last = (subject: string) => (props.past ? undefined : m.last(subject))
</script>

<template>
  <div class="part" :class="{ row }">
    <NumberField
      v-model="temperature"
      label="Water temperature"
      :unit="units.temperature"
      :row="row"
      :wrong="faultOf(faults, 'temperature')"
      :hint="last('temperature')"
    />
    <slot name="temperature"></slot>
    <template v-if="showPh">
      <NumberField
        v-if="!kit"
        v-model="ph"
        label="pH"
        :row="row"
        :wrong="faultOf(faults, 'ph')"
        :hint="last('ph') ?? (past ? undefined : 'Swirl, and wait until it stands still.')"
      />
      <div v-else class="field">
        <ChoiceChips v-model="band" label="pH by drop kit: between which two colours?" :choices="bands" />
        <p :class="faultOf(faults, 'ph') ? 'wrong' : 'quiet small'">{{ faultOf(faults, 'ph') ?? last('ph') }}</p>
      </div>
      <slot name="ph"></slot>
      <button v-if="!row" class="button plain" type="button" @click="m.turnKit">
        {{ kit ? 'I have a pH meter' : 'I used a drop kit for pH' }}
      </button>
    </template>
    <template v-if="showEc">
      <ChoiceChips
        v-if="!view.meter"
        v-model="scaled"
        label="The EC meter’s scale, printed on it"
        :choices="choices<Schemas['EcScale']>('ec_scale')"
        keep
      />
      <NumberField
        v-if="scale"
        v-model="ec"
        :label="row ? 'EC' : 'EC, as it stands on the meter'"
        :unit="scaleName(scale)"
        :row="row"
        :wrong="faultOf(faults, 'ec')"
        :hint="[last('ec'), row && last('ec') ? '' : view.meter?.name].filter(Boolean).join(', ')"
      />
      <slot name="ec"></slot>
    </template>
    <VisitRunOff
      v-if="view.system.traits.to_waste && !past"
      v-model="visit"
      :view="view"
      :faults="faults"
      :row="row ?? false"
    />
    <slot name="run_off"></slot>
    <p v-if="!showPh && !row" class="quiet">This system is cared for by recipe: nothing has to be measured.</p>
    <button v-if="!showPh || !showEc" class="button plain" type="button" @click="more = true">
      {{ showPh ? 'I measured EC too' : 'I measured pH or EC' }}
    </button>
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
.button {
  justify-self: start;
}
</style>
