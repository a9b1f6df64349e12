<script setup lang="ts">
/** The level: as a height where the vessel has one, else in litres; the core turns it into a volume. */
import { computed, toRef } from 'vue'
import type { Visit } from '../api/client'
import { useChoices } from '../api/queries'
import NumberField from '../parts/NumberField.vue'
import { useLevel, type LevelWay, type NumbersGiven } from './readings'
import { faultOf } from './useVisit'

const props = defineProps<NumbersGiven>()
const visit = defineModel<Visit>({ required: true })
const choices = useChoices()
const { way, usual, typed, tare, read, pumpRan, hasPump, label, unit, units, last } = useLevel(
  toRef(props, 'view'),
  visit,
)
const said = computed(() => {
  const volume = props.judgement?.volume
  if (way.value === 'weight' && volume == null) return 'The vessel with its water, on a scale.'
  if (volume != null && way.value !== 'volume') return `That is ${units.value.toVolume(volume)} ${units.value.volume}.`
  if (props.row && last.value) return last.value
  return way.value === 'height' ? 'From the floor of the vessel up to the water.' : 'Read off the scale on the vessel.'
})
</script>

<template>
  <div class="part">
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
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
}
</style>
