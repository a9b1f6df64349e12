<script setup lang="ts">
/** Look and listen: signs on the plants, and what should run. */
import { computed } from 'vue'
import type { Refusal, Schemas, SystemView, Visit } from '../api/client'
import ExplanationCard from '../plants/ExplanationCard.vue'
import LookAnswer from '../plants/LookAnswer.vue'
import PictureAdd from '../plants/PictureAdd.vue'
import PlantSigns from '../plants/PlantSigns.vue'
import TypedText from '../parts/TypedText.vue'
import VisitCases from './VisitCases.vue'
import YesNo from './YesNo.vue'
import { faultOf } from './useVisit'

defineProps<{
  view: SystemView
  faults: Refusal[]
  child: boolean
  by: string | undefined
  told?: Schemas['Explanation'] | null
}>()
const visit = defineModel<Visit>({ required: true })
const signs = computed(() => visit.value.plants?.signs ?? [])
type Part = keyof Schemas['Running']
function run(part: Part, seen: boolean | null | undefined) {
  const running: Record<string, boolean | null | undefined> = { ...visit.value.running, [part]: seen }
  visit.value.running = Object.values(running).every((v) => v == null) ? null : (running as Schemas['Running'])
}
</script>

<template>
  <div class="part">
    <VisitCases v-model="visit" :view="view" :child="child" asks />
    <p class="label">The plants</p>
    <PlantSigns v-model="visit.plants" />
    <div v-if="visit.plants && signs.length" class="field">
      <label for="sign-ports">On which ports? (as in 1-3, 7; left empty: not known)</label>
      <TypedText
        id="sign-ports"
        :model-value="visit.plants.ports"
        :aria-invalid="!!faultOf(faults, 'plants')"
        @update:model-value="visit.plants = { ...visit.plants, ports: $event ?? null }"
      />
      <p class="wrong">{{ faultOf(faults, 'plants') }}</p>
    </div>
    <PictureAdd
      v-if="visit.plants && signs.length"
      :system="view.card.id"
      :by="by"
      :ports="visit.plants.ports ?? null"
    />
    <ExplanationCard v-if="told && signs.length" :told="told" :system="view.card.id" :child="child">
      <template #look="{ look }"><LookAnswer v-model="visit" :look="look" :system="view.card.id" /></template>
    </ExplanationCard>
    <VisitCases v-model="visit" :view="view" :child="child" :offer="told" />
    <p class="label">What runs</p>
    <YesNo
      v-for="{ key, question, yes, no } in view.runs"
      :key="key"
      :question="question"
      :yes="yes"
      :no="no"
      :model-value="visit.running?.[key as Part]"
      @update:model-value="run(key as Part, $event)"
    />
  </div>
</template>

<style scoped>
.part {
  display: grid;
  gap: 12px;
}
</style>
