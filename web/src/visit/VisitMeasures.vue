<script setup lang="ts">
/** Temperature, pH and EC, as this system is measured. */
import { computed, ref } from 'vue'
import type { Refusal, Schemas, SystemView, Visit } from '../api/client'
import { useChoices } from '../api/queries'
import { useKit, useUnits, scaleName } from '../api/units'
import ChoiceChips from '../controls/ChoiceChips.vue'
import NumberField from '../parts/NumberField.vue'
import { faultOf } from './useVisit'

const props = defineProps<{ view: SystemView; faults: Refusal[] }>()
const visit = defineModel<Visit>({ required: true })
const units = useUnits(computed(() => props.view.units))
const choices = useChoices()
const { bands, kitReading } = useKit()
const ownKit = ref<boolean>()
const kit = computed(() =>
  visit.value.ph ? visit.value.ph.by === 'kit' : (ownKit.value ?? props.view.system.measuring === 'drop_kit'),
)
function turnKit() {
  ownKit.value = !kit.value
  visit.value.ph = null
}
const chosen = ref<Schemas['EcScale']>()
const scale = computed(() => visit.value.ec?.scale ?? props.view.meter?.scale ?? chosen.value)
const more = ref(false)
const showPh = computed(() => more.value || !!visit.value.ph || props.view.system.measuring !== 'recipe_only')
const showEc = computed(() => more.value || !!visit.value.ec || !!props.view.meter)
const temperature = computed<number | null>({
  get: () => (visit.value.temperature == null ? null : units.value.toTemperature(visit.value.temperature)),
  set: (value) => (visit.value.temperature = value === null ? null : units.value.fromTemperature(value)),
})
const ph = computed<number | null>({
  get: () => (visit.value.ph?.by === 'meter' ? visit.value.ph.value : null),
  set: (value) => (visit.value.ph = value === null ? null : { by: 'meter', value }),
})
const ec = computed<number | null>({
  get: () => visit.value.ec?.value ?? null,
  set: (value) => {
    visit.value.ec =
      value === null || !scale.value
        ? null
        : { value, scale: scale.value, compensated: props.view.meter?.compensated ?? true }
  },
})
function setScale(key: Schemas['EcScale']) {
  chosen.value = key
  if (visit.value.ec) visit.value.ec = { ...visit.value.ec, scale: key }
}
const last = (subject: string) => {
  const value = props.view.last.find((v) => v.subject === subject)
  return value ? `Last ${value.value}, ${value.when}` : undefined
}
const band = computed<number | null>({
  get: () => (visit.value.ph?.by === 'kit' ? visit.value.ph.low : null),
  set: (low) => (visit.value.ph = kitReading(low)),
})
const scaled = computed({ get: () => scale.value, set: (key) => key && setScale(key) })
</script>

<template>
  <div class="part">
    <NumberField
      v-model="temperature"
      label="Water temperature"
      :unit="units.temperature"
      :wrong="faultOf(faults, 'temperature')"
      :hint="last('temperature')"
    />
    <template v-if="showPh">
      <NumberField
        v-if="!kit"
        v-model="ph"
        label="pH"
        :wrong="faultOf(faults, 'ph')"
        :hint="last('ph') ?? 'Swirl, and wait until it stands still.'"
      />
      <div v-else class="field">
        <ChoiceChips v-model="band" label="pH by drop kit: between which two colours?" :choices="bands" />
        <p :class="faultOf(faults, 'ph') ? 'wrong' : 'quiet small'">{{ faultOf(faults, 'ph') ?? last('ph') }}</p>
      </div>
      <button class="button plain" type="button" @click="turnKit">
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
        label="EC, as it stands on the meter"
        :unit="scaleName(scale)"
        :wrong="faultOf(faults, 'ec')"
        :hint="last('ec') ? `${last('ec')}${view.meter ? `, ${view.meter.name}` : ''}` : view.meter?.name"
      />
    </template>
    <p v-if="!showPh" class="quiet">This system is cared for by recipe: nothing has to be measured.</p>
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
.button {
  justify-self: start;
}
</style>
