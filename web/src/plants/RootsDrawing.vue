<script setup lang="ts">
/** Roots at a stage: 0 separate and pale, 1 strands that stick together, 2 slime and browning, 3 a dark mat; or an
 * even tan tint. */
const props = defineProps<{ stage: 0 | 1 | 2 | 3; tan?: boolean }>()
const SPREAD = [7.5, 4, 4.5, 3]
const strands = [-3, -2, -1, 0, 1, 2, 3].map((n) => {
  const out = n * SPREAD[props.stage]!
  const long = 40 - Math.abs(n) * 2.5
  return `M${32 + n * 1.6} 14q${out * 0.4} ${long * 0.5} ${out} ${long}`
})
</script>

<template>
  <svg class="roots" viewBox="0 0 64 64" aria-hidden="true">
    <path v-if="stage === 2" class="slime" d="M22 20Q18 44 24 54Q32 60 40 54Q46 44 42 20Z" />
    <path v-if="stage === 3" class="mat" d="M24 16Q19 40 26 52Q32 57 38 52Q45 40 40 16Z" />
    <path v-for="path in strands" :key="path" :class="['strand', `s${stage}`, { tan }]" :d="path" />
    <path class="lid" d="M8 12H56" />
    <path class="plug" d="M24 12L27 19H37L40 12" />
  </svg>
</template>

<style scoped>
.roots {
  width: 56px;
  height: 56px;
  flex: none;
}
.lid,
.plug {
  fill: none;
  stroke: var(--line-2);
  stroke-width: 2;
  stroke-linejoin: round;
}
.strand {
  fill: none;
  stroke-width: 3;
  stroke-linecap: round;
}
.s0 {
  stroke: light-dark(#d9c9a3, var(--root-0));
}
.s0.tan {
  stroke: light-dark(#b07f3c, var(--root-1));
}
.s1 {
  stroke: light-dark(#c9b183, var(--root-0));
}
.s2 {
  stroke: var(--root-2);
}
.s3 {
  stroke: var(--root-3);
}
.slime {
  fill: var(--root-1);
  opacity: 0.45;
}
.mat {
  fill: var(--root-3);
  opacity: 0.75;
}
</style>
