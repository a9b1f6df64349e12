<script setup lang="ts">
/** Each vessel of a loop by itself: together they are the level, and one that stands low tells of a clogged pipe. */
import { computed, ref } from 'vue'
import type { Visit } from '../api/client'
import { useUnits } from '../api/units'
import NumberField from '../parts/NumberField.vue'
import type { NumbersGiven } from './readings'
import { faultOf } from './useVisit'

const props = defineProps<NumbersGiven>()
const visit = defineModel<Visit>({ required: true })
const units = useUnits(computed(() => props.view.units))
/** How many there are is remembered on the device: it is the same at each visit. */
const key = computed(() => `mopsel.vessels.${props.view.card.id}`)
const typed = ref<(number | null)[]>(
  visit.value.vessels?.litres.slice() ??
    Array.from({ length: Math.max(2, Number(localStorage.getItem(key.value)) || 2) }, () => null),
)
const off = ref(visit.value.vessels?.pump_ran === false)
/** One that is not read yet is not taken for empty: they count once all are there. */
function put() {
  localStorage.setItem(key.value, String(typed.value.length))
  const litres = typed.value.filter((one) => one !== null)
  const whole = litres.length === typed.value.length && litres.length > 1
  visit.value.vessels = whole ? { litres, pump_ran: !off.value } : null
}
function set(n: number, value: number | null) {
  typed.value[n] = value === null ? null : units.value.fromVolume(value)
  put()
}
function more(by: 1 | -1) {
  if (by > 0) typed.value.push(null)
  else typed.value.pop()
  put()
}
const open = computed(() => typed.value.filter((one) => one === null).length)
const hint = computed(() => {
  if (open.value === typed.value.length) return undefined
  if (open.value) return `${open.value} still to be read.`
  const volume = props.judgement?.volume
  return volume == null ? undefined : `Together ${units.value.toVolume(volume)} ${units.value.volume}.`
})
</script>

<template>
  <div class="part" role="group" aria-label="Each vessel">
    <NumberField
      v-for="(litres, n) in typed"
      :key="n"
      :model-value="litres === null ? null : units.toVolume(litres)"
      :label="`Vessel ${n + 1}`"
      :unit="units.volume"
      :row="row"
      :hint="n === typed.length - 1 ? hint : undefined"
      @update:model-value="set(n, $event)"
    />
    <p v-if="faultOf(faults, 'vessels')" class="wrong">{{ faultOf(faults, 'vessels') }}</p>
    <p class="ways">
      <button v-if="typed.length < 24" class="button plain" type="button" @click="more(1)">One more vessel</button>
      <button v-if="typed.length > 2" class="button plain" type="button" @click="more(-1)">One less</button>
    </p>
    <label v-if="(view.system.traits.drain_back ?? 0) > 0" class="tick">
      <input v-model="off" type="checkbox" @change="put" /> The pump was off: take off what ran back
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
