<script setup lang="ts">
/** The fillings, drawn: each can as tall as it is full, with its litres and weight. */
import { computed } from 'vue'
import type { Schemas } from '../api/client'

const props = defineProps<{ shares: Schemas['Filling'][] }>()
const most = computed(() => Math.max(...props.shares.map((s) => s.litres)))
const part = (litres: number) => Math.max(0.12, litres / most.value)
</script>

<template>
  <ol class="cans" aria-label="Containers to fill">
    <li v-for="(share, i) in shares" :key="i">
      <svg viewBox="0 0 48 56" width="48" height="56" aria-hidden="true">
        <rect class="water" x="7" :y="52 - 40 * part(share.litres)" width="34" :height="40 * part(share.litres)" />
        <path class="ink" d="M6 10v42h36V10M6 10c0-4 36-4 36 0M18 8c0-6 12-6 12 0" />
        <path class="line" :d="`M7 ${52 - 40 * part(share.litres)}q8.5 -2 17 0t17 0`" />
      </svg>
      <span>
        <strong class="num">{{ share.said }}</strong>
        <span class="small quiet">{{ share.container }}</span>
      </span>
    </li>
  </ol>
</template>

<style scoped>
.cans {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 24px;
}
li {
  display: flex;
  align-items: end;
  gap: 8px;
}
li > span {
  display: grid;
  line-height: 1.25;
}
strong {
  font-size: 20px;
}
.water {
  fill: var(--water-fill);
}
.ink {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.6;
}
.line {
  fill: none;
  stroke: var(--water);
  stroke-width: 1.6;
}
@media print {
  svg {
    height: 32px;
    width: 28px;
  }
  strong {
    font-size: 11pt;
  }
}
</style>
