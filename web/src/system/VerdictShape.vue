<script setup lang="ts">
/** How a verdict stands, as a shape: a tick, a square, a falling triangle. */
import type { Verdict } from '../api/client'
import { toneWord } from './toned'

defineProps<{ verdict: Verdict }>()
</script>

<template>
  <svg viewBox="0 0 14 14" width="14" height="14" role="img" :aria-label="toneWord(verdict)">
    <path v-if="verdict.tone === 'fine'" d="M1 8l4 4 8-10" fill="none" stroke="currentColor" stroke-width="2.2" />
    <rect
      v-else-if="verdict.tone === 'watch'"
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
