<script setup lang="ts">
/** Large keys for numbers, for wet hands: typed into the field at hand, which keeps the focus. */
import { padded, press } from './pad'

defineEmits<{ next: [] }>()
const KEYS = ['1', '2', '3', '4', '5', '6', '7', '8', '9', '.', '0', 'erase']
const NAMES: Record<string, string> = { '.': 'Point', erase: 'Erase' }
</script>

<template>
  <div class="pad" role="group" aria-label="Keys for numbers" @pointerdown.prevent @mousedown.prevent>
    <button
      v-for="key in KEYS"
      :key="key"
      type="button"
      tabindex="-1"
      :aria-label="NAMES[key]"
      :style="{ gridColumn: (KEYS.indexOf(key) % 3) + 1 }"
      @click="press(key)"
    >
      {{ key === 'erase' ? '⌫' : key }}
    </button>
    <button class="next" type="button" tabindex="-1" @click="$emit('next')">Next</button>
    <button class="off small" type="button" tabindex="-1" @click="padded = false">Keyboard</button>
  </div>
</template>

<style scoped>
.pad {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  grid-auto-rows: 52px;
  gap: 5px;
}
button {
  border: 1px solid var(--line-2);
  border-radius: 4px;
  background: var(--sheet);
  color: var(--ink);
  font: 650 24px/1 var(--face);
  touch-action: manipulation;
  cursor: pointer;
}
button:active {
  background: var(--water-wash);
}
.next {
  grid-column: 4;
  grid-row: 1 / span 3;
  background: var(--water);
  border-color: var(--water);
  color: var(--on-water);
  font-size: 20px;
}
.off {
  grid-column: 4;
  grid-row: 4;
  padding: 0;
  font-size: 14px;
  line-height: 1.1;
}
</style>
