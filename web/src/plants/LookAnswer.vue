<script setup lang="ts">
/** The answer to the one look more: there or not, how many, from where, or the step at which it is made. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas, Visit } from '../api/client'
import { useChoices } from '../api/queries'
import ChoiceChips from '../controls/ChoiceChips.vue'
import { STEP_OF_LOOK } from './leads'

const props = defineProps<{ look: Schemas['NextLook']; system: string; traits: Schemas['Traits'] }>()
const visit = defineModel<Visit>({ required: true })
const choices = useChoices()
const sign = computed(() => props.look.key as Schemas['PlantSign'])
const plants = computed(() => visit.value.plants ?? { signs: [] })
const step = computed(() => STEP_OF_LOOK[props.look.key])
function there() {
  visit.value.plants = { ...plants.value, signs: [...(plants.value.signs ?? []), sign.value] }
}
function notThere() {
  visit.value.plants = { ...plants.value, absent: [...(plants.value.absent ?? []), sign.value] }
}
const part = (key: 'spread' | 'course') =>
  computed({
    get: () => plants.value[key] ?? null,
    set: (value) => (visit.value.plants = { ...plants.value, [key]: value ?? null } as Schemas['Plants']),
  })
const spreads = computed(() => choices<Schemas['Spread']>('spread'))
const courses = computed(() => choices<Schemas['Course']>('course'))
const [spread, course] = [part('spread'), part('course')]
/** The part that runs which the look is about. */
const runs = computed((): keyof Schemas['Running'] | null => {
  if (props.look.key === 'outlets') return 'outlets_wet'
  if (props.look.key === 'air') return props.traits.aerated ? 'bubbles' : 'water_sounds_right'
  return null
})
function ran(right: boolean) {
  if (runs.value) visit.value.running = { ...visit.value.running, [runs.value]: right } as Schemas['Running']
}
</script>

<template>
  <div v-if="look.sign" class="answers">
    <button class="button" type="button" @click="there">It is there</button>
    <button class="button" type="button" @click="notThere">It is not there</button>
  </div>
  <ChoiceChips
    v-else-if="look.key === 'spread'"
    v-model="spread"
    label="How many plants show it?"
    :choices="spreads"
    silent
  />
  <ChoiceChips
    v-else-if="look.key === 'course'"
    v-model="course"
    label="How does it go over the plant?"
    :choices="courses"
    silent
  />
  <div v-else-if="runs" class="answers">
    <button class="button" type="button" @click="ran(true)">As it should be</button>
    <button class="button" type="button" @click="ran(false)">Something is amiss</button>
  </div>
  <RouterLink v-else-if="step" class="button" :to="{ path: `/system/${system}/visit`, query: { step } }"
    >Do that now</RouterLink
  >
</template>

<style scoped>
.answers {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
