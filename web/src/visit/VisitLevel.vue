<script setup lang="ts">
/** The level: as a height where the vessel has one, else in litres; the core turns it into a volume. */
import { computed, ref, toRef } from 'vue'
import type { Visit } from '../api/client'
import { useChoices } from '../api/queries'
import NumberField from '../parts/NumberField.vue'
import { useLevel, type LevelWay, type NumbersGiven } from './readings'
import { faultOf } from './useVisit'
import VisitVessels from './VisitVessels.vue'

const props = defineProps<NumbersGiven>()
const visit = defineModel<Visit>({ required: true })
const choices = useChoices()
const { way, usual, typed, tare, read, pumpRan, hasPump, label, unit, units, last } = useLevel(
  toRef(props, 'view'),
  visit,
)
/** Where several vessels share one water, each may be read. */
const joined = computed(() => props.view.system.kind === 'bucket_chain' && props.view.system.traits.circulates)
const each = ref(!!visit.value.vessels)
function turn() {
  each.value = !each.value
  visit.value.level = visit.value.vessels = null
}
const said = computed(() => {
  const volume = props.judgement?.volume
  if (way.value === 'weight' && volume == null) return 'The vessel with its water, on a scale.'
  if (volume != null && way.value !== 'volume') return `That is ${units.value.toVolume(volume)} ${units.value.volume}.`
  if (props.row && last.value) return last.value
  return way.value === 'height' ? 'From the floor of the vessel up to the water.' : 'Read off the scale on the vessel.'
})
</script>

<template>
  <div v-if="joined && each" class="part">
    <VisitVessels v-model="visit" :view="view" :faults="faults" :judgement="judgement" :row="row" />
    <button class="button plain other" type="button" @click="turn">Enter the level of the whole instead</button>
  </div>
  <div v-else class="part">
    <NumberField
      :key="way"
      v-model="typed"
      :label="label"
      :unit="unit"
      :row="row"
      :wrong="faultOf(faults, 'level')"
      :hint="said"
    />
    <NumberField v-if="way === 'weight'" v-model="tare" label="Empty it weighs" :unit="unit" hint="Remembered here" />
    <p v-if="!row" class="ways">
      <button
        v-for="w in choices<LevelWay>('level_by').filter(
          (one) => one.key !== way && (one.key !== 'height' || usual === 'height'),
        )"
        :key="w.key"
        class="button plain"
        type="button"
        @click="read(w.key)"
      >
        {{ w.name }}
      </button>
    </p>
    <button v-if="joined" class="button plain other" type="button" @click="turn">Read each vessel instead</button>
    <label v-if="hasPump && (!row || typed !== null)" class="tick">
      <input
        type="checkbox"
        :checked="!pumpRan"
        :disabled="typed === null"
        @change="pumpRan = !($event.target as HTMLInputElement).checked"
      />
      The pump was off: take off what ran back
    </label>
  </div>
</template>

<style scoped>
.part {
  display: grid;
  gap: 8px;
}
.other {
  justify-self: start;
}
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
}
</style>
