<script setup lang="ts">
/** A glass of the water held to the light. */
import { computed } from 'vue'
import type { Schemas, Visit } from '../api/client'

const visit = defineModel<Visit>({ required: true })
const CLARITY: [Schemas['Clarity'], string][] = [
  ['clear', 'Clear'],
  ['tinted', 'Clear with a tint'],
  ['white_cloud', 'White cloud'],
  ['green', 'Green'],
  ['brown', 'Brown'],
]
const SMELL: [Schemas['Smell'], string][] = [
  ['fresh', 'Fresh'],
  ['earthy', 'Earthy'],
  ['foul', 'Foul'],
]
const clarity = computed(() => visit.value.glass?.clarity)
const look = (key: Schemas['Clarity']) =>
  (visit.value.glass = clarity.value === key ? null : { ...visit.value.glass, clarity: key })
const smell = (key: Schemas['Smell']) => {
  if (visit.value.glass)
    visit.value.glass = { ...visit.value.glass, smell: visit.value.glass.smell === key ? null : key }
}
</script>

<template>
  <div class="part">
    <p class="label">What does it look like?</p>
    <div class="chips" role="group" aria-label="What does it look like?">
      <button
        v-for="[key, name] in CLARITY"
        :key="key"
        class="chip"
        type="button"
        :aria-pressed="clarity === key"
        @click="look(key)"
      >
        <span class="swatch" :class="key"></span>{{ name }}
      </button>
    </div>
    <p class="label">What does it smell of?</p>
    <div class="chips" role="group" aria-label="What does it smell of?">
      <button
        v-for="[key, name] in SMELL"
        :key="key"
        class="chip"
        type="button"
        :disabled="!visit.glass"
        :aria-pressed="visit.glass?.smell === key"
        @click="smell(key)"
      >
        {{ name }}
      </button>
    </div>
    <p v-if="!visit.glass" class="quiet small">Look first, then smell.</p>
  </div>
</template>

<style scoped>
.part {
  display: grid;
  gap: 12px;
}
.chip:disabled {
  opacity: 0.5;
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
