<script setup lang="ts">
/** A number on its scale, with the wanted band: read by place, not by hue. */
import { computed } from 'vue'
import type { Schemas } from '../api/client'

const props = defineProps<{ gauge: Schemas['Gauge'] }>()
const x = (value: number) => {
  const { from, to } = props.gauge
  return 300 * Math.min(1, Math.max(0, (value - from) / (to - from)))
}
const at = computed(() => {
  const [low = 0, high = 0] = props.gauge.value
  return { x: x(low), w: Math.max(3, x(high) - x(low)) }
})
</script>

<template>
  <svg viewBox="0 0 300 22" preserveAspectRatio="none" aria-hidden="true">
    <path d="M0 11H300" class="scale" />
    <rect
      class="band"
      :x="x(gauge.band[0] ?? 0)"
      y="6"
      :width="Math.max(2, x(gauge.band[1] ?? 0) - x(gauge.band[0] ?? 0))"
      height="10"
    />
    <rect class="value" :x="at.x" y="1" :width="at.w" height="20" />
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  height: 18px;
}
.scale {
  stroke: var(--line-2);
  stroke-width: 1;
}
.band {
  fill: var(--water-fill-2);
}
.value {
  fill: var(--ink);
}
</style>
