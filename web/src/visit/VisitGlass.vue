<script setup lang="ts">
/** A glass of the water held to the light. */
import { computed } from 'vue'
import type { Schemas, Visit } from '../api/client'
import { useChoices } from '../api/queries'
import ChoiceChips from '../controls/ChoiceChips.vue'

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
      ><span class="swatch" :class="option.key"></span
    ></ChoiceChips>
    <ChoiceChips v-model="smell" label="What does it smell of?" :choices="smells" />
    <p v-if="!visit.glass" class="quiet small">Look first, then smell.</p>
  </div>
</template>

<style scoped>
.part {
  display: grid;
  gap: 12px;
}
.swatch {
  display: inline-block;
  width: 18px;
  height: 22px;
  margin-right: 8px;
  vertical-align: -5px;
  border: 1.4px solid var(--ink);
  border-top: 0;
  border-radius: 0 0 4px 4px;
  background: var(--sheet);
}
.tinted {
  background: var(--watch-wash);
}
.white_cloud {
  background: repeating-linear-gradient(45deg, var(--cloud) 0 3px, var(--line) 3px 5px);
}
.green {
  background: var(--algae);
}
.brown {
  background: var(--brown);
}
</style>
