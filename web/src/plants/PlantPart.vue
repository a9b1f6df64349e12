<script setup lang="ts">
/** A plant with one of its parts marked: where it is looked at. */
defineProps<{ part: string }>()
</script>

<template>
  <svg class="plant" viewBox="0 0 64 64" aria-hidden="true">
    <path class="line" d="M20 46H44L41 58H23Z" />
    <path class="line" d="M32 46V16" />
    <g :class="{ on: part === 'old_leaves' || part === 'whole' || part === 'any_leaves' }">
      <path class="leaf" d="M32 42Q16 44 9 35Q22 31 32 42Z" />
      <path class="leaf" d="M32 42Q48 44 55 35Q42 31 32 42Z" />
    </g>
    <g :class="{ on: part === 'whole' || part === 'any_leaves' || part === 'small_things' }">
      <path class="leaf" d="M32 31Q19 32 14 23Q25 21 32 31Z" />
      <path class="leaf" d="M32 31Q45 32 50 23Q39 21 32 31Z" />
    </g>
    <g :class="{ on: part === 'young_leaves' || part === 'whole' || part === 'any_leaves' }">
      <path class="leaf" d="M32 20Q24 19 22 11Q30 12 32 20Z" />
      <path class="leaf" d="M32 20Q40 19 42 11Q34 12 32 20Z" />
    </g>
    <g v-if="part === 'small_things'" class="dot">
      <circle cx="21" cy="29" r="1.8" />
      <circle cx="25" cy="31" r="1.8" />
      <circle cx="43" cy="29" r="1.8" />
      <path class="line mark" d="M12 15l4 3M50 13l-3 4M54 19h-4" />
    </g>
    <g v-if="part === 'fur_and_fruit'">
      <circle class="on" cx="45" cy="36" r="6.5" />
      <path class="line mark" d="M15 30l-2 -5M19 29l0 -5M23 30l2 -4" />
      <path class="leaf on" d="M32 42Q16 44 9 35Q22 31 32 42Z" />
    </g>
    <g v-if="part === 'water_edge'">
      <path class="on" d="M22 51.5H42L41 58H23Z" />
      <path class="line mark" d="M14 47H24M40 47H50" />
    </g>
  </svg>
</template>

<style scoped>
.plant {
  width: 52px;
  height: 52px;
  flex: none;
}
.line {
  fill: none;
  stroke: var(--line-2);
  stroke-width: 1.6;
  stroke-linejoin: round;
  stroke-linecap: round;
}
.leaf {
  fill: var(--sheet);
  stroke: var(--line-2);
  stroke-width: 1.4;
  stroke-linejoin: round;
}
.on .leaf,
.leaf.on,
path.on,
circle.on {
  fill: var(--water);
  stroke: var(--water-deep);
}
.mark {
  stroke: var(--water-deep);
  stroke-width: 2;
}
.dot circle {
  fill: var(--water-deep);
}
</style>
