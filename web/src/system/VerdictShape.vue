<script setup lang="ts">
/** How a verdict stands, as a shape: a tick, a square, a falling triangle. */
import type { Verdict } from '../api/client'

defineProps<{ tone: Verdict['tone'] }>()
const WORD = { fine: 'Fine', watch: 'Watch it', act: 'Act within days', now: 'Act now' }
</script>

<template>
  <svg viewBox="0 0 14 14" width="14" height="14" role="img" :aria-label="WORD[tone]">
    <path v-if="tone === 'fine'" d="M1 8l4 4 8-10" fill="none" stroke="currentColor" stroke-width="2.2" />
    <rect
      v-else-if="tone === 'watch'"
      x="2"
      y="2"
      width="10"
      height="10"
      fill="none"
      stroke="currentColor"
      stroke-width="2"
    />
    <path v-else d="M1 2h12L7 13z" fill="currentColor" />
  </svg>
</template>

<style scoped>
svg {
  flex: none;
}
</style>
