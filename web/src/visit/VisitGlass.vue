<script setup lang="ts">
/** A glass of the water held to the light. */
import { computed } from 'vue'
import type { Schemas, Visit } from '../api/client'
import { useChoices } from '../api/queries'
import ChoiceChips from '../controls/ChoiceChips.vue'
import GlassDrawing from '../plants/GlassDrawing.vue'

const visit = defineModel<Visit>({ required: true })
const choices = useChoices()
const clarity = computed({
  get: () => visit.value.glass?.clarity,
  set: (key) => (visit.value.glass = key ? { ...visit.value.glass, clarity: key } : null),
})
const smell = computed({
  get: () => visit.value.glass?.smell,
  set: (key) => {
    if (visit.value.glass) visit.value.glass = { ...visit.value.glass, smell: key ?? null }
  },
})
const smells = computed(() => choices<Schemas['Smell']>('smell').map((one) => ({ ...one, off: !visit.value.glass })))
</script>

<template>
  <div class="part">
    <ChoiceChips
      v-slot="{ option }"
      v-model="clarity"
      label="What does it look like?"
      :choices="choices<Schemas['Clarity']>('clarity')"
      ><GlassDrawing :clarity="option.key"
    /></ChoiceChips>
    <ChoiceChips v-model="smell" label="What does it smell of?" :choices="smells" />
    <p v-if="!visit.glass" class="quiet small">Look first, then smell.</p>
  </div>
</template>

<style scoped>
.part {
  display: grid;
  gap: 12px;
}
</style>
