<script setup lang="ts">
/** The answer to the one look more: there or not, how many, from where, right or not, or the step at which it is made. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas, Visit } from '../api/client'
import { useChoices } from '../api/queries'
import ChoiceChips from '../controls/ChoiceChips.vue'
import { pathOf } from '../system/way'

const props = defineProps<{ look: Schemas['NextLook']; system: string }>()
const visit = defineModel<Visit>({ required: true })
const choices = useChoices()
const plants = computed(() => visit.value.plants ?? { signs: [] })
function seen(list: 'signs' | 'absent') {
  const sign = props.look.key as Schemas['PlantSign']
  const told = plants.value[list] ?? []
  if (!told.includes(sign)) visit.value.plants = { ...plants.value, [list]: [...told, sign] }
}
const part = (key: 'spread' | 'course' | 'since') =>
  computed({
    get: () => plants.value[key] ?? null,
    set: (value) => (visit.value.plants = { ...plants.value, [key]: value ?? null } as Schemas['Plants']),
  })
const [spread, course, since] = [part('spread'), part('course'), part('since')]
const spreads = computed(() => choices<Schemas['Spread']>('spread'))
const courses = computed(() => choices<Schemas['Course']>('course'))
const sinces = computed(() => choices<Schemas['Since']>('since'))
function ran(right: boolean) {
  const { runs } = props.look
  if (runs) visit.value.running = { ...visit.value.running, [runs]: right } as Schemas['Running']
}
</script>

<template>
  <div v-if="look.sign" class="answers">
    <button class="button" type="button" @click="seen('signs')">It is there</button>
    <button class="button" type="button" @click="seen('absent')">It is not there</button>
  </div>
  <ChoiceChips v-else-if="look.key === 'spread'" v-model="spread" :label="look.ask" :choices="spreads" silent />
  <ChoiceChips v-else-if="look.key === 'course'" v-model="course" :label="look.ask" :choices="courses" silent />
  <ChoiceChips v-else-if="look.key === 'since'" v-model="since" :label="look.ask" :choices="sinces" silent />
  <div v-else-if="look.runs" class="answers">
    <button class="button" type="button" @click="ran(true)">As it should be</button>
    <button class="button" type="button" @click="ran(false)">Something is amiss</button>
  </div>
  <RouterLink v-else class="button" :to="pathOf(look.way, system)">{{ look.way.name }}</RouterLink>
</template>

<style scoped>
.answers {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
