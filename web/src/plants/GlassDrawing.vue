<script setup lang="ts">
/** A glass of the water, held to the light. */
defineProps<{ clarity: string }>()
</script>

<template>
  <svg class="glass" viewBox="0 0 40 48" aria-hidden="true">
    <path :class="['water', clarity]" d="M8.6 14L11 42H29L31.4 14Z" />
    <path v-if="clarity === 'clear' || clarity === 'tinted'" class="through" d="M14 34L26 20" />
    <path class="wall" d="M7 6L10.4 43H29.6L33 6" />
  </svg>
</template>

<style scoped>
.glass {
  width: 30px;
  height: 36px;
  flex: none;
  margin-right: 8px;
  vertical-align: middle;
}
.wall {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 2;
  stroke-linejoin: round;
}
.through {
  stroke: var(--line-2);
  stroke-width: 1.6;
}
.water {
  fill: var(--water-fill);
}
.tinted {
  fill: light-dark(#e6dcb8, #6b6440);
}
.white_cloud {
  fill: var(--cloud);
  stroke: var(--line-2);
}
.green {
  fill: var(--algae);
}
.brown {
  fill: var(--brown);
}
</style>
