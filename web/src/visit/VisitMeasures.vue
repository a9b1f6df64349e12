<script setup lang="ts">
/** Temperature, pH and EC, as this system is measured. */
import { computed, ref } from 'vue'
import type { Refusal, Schemas, SystemView, Visit } from '../api/client'
import { useUnits, SCALES, scaleName } from '../api/units'
import NumberField from '../parts/NumberField.vue'
import { faultOf } from './useVisit'

const props = defineProps<{ view: SystemView; faults: Refusal[] }>()
const visit = defineModel<Visit>({ required: true })
const units = useUnits(computed(() => props.view.units))
const ownKit = ref<boolean>()
const kit = computed(() =>
  visit.value.ph ? visit.value.ph.by === 'kit' : (ownKit.value ?? props.view.system.measuring === 'drop_kit'),
)
function turnKit() {
  ownKit.value = !kit.value
  visit.value.ph = null
}
const BANDS = [4, 4.5, 5, 5.5, 6, 6.5, 7, 7.5, 8]
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
const chooseBand = (low: number) =>
  (visit.value.ph =
    visit.value.ph?.by === 'kit' && visit.value.ph.low === low ? null : { by: 'kit', low, high: low + 0.5 })
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
      <div v-else role="group" aria-label="pH by drop kit" class="field">
        <span class="label">pH by drop kit: between which two colours?</span>
        <div class="chips">
          <button
            v-for="low in BANDS"
            :key="low"
            class="chip num"
            type="button"
            :aria-pressed="visit.ph?.by === 'kit' && visit.ph.low === low"
            @click="chooseBand(low)"
          >
            {{ low.toFixed(1) }}–{{ (low + 0.5).toFixed(1) }}
          </button>
        </div>
        <p :class="faultOf(faults, 'ph') ? 'wrong' : 'quiet small'">{{ faultOf(faults, 'ph') ?? last('ph') }}</p>
      </div>
      <button class="button plain" type="button" @click="turnKit">
        {{ kit ? 'I have a pH meter' : 'I used a drop kit for pH' }}
      </button>
    </template>
    <template v-if="showEc">
      <div v-if="!view.meter" role="group" aria-label="The EC meter’s scale" class="field">
        <span class="label">The EC meter’s scale, printed on it</span>
        <div class="chips">
          <button
            v-for="[key, name] in SCALES"
            :key="key"
            class="chip"
            type="button"
            :aria-pressed="scale === key"
            @click="setScale(key)"
          >
            {{ name }}
          </button>
        </div>
      </div>
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
