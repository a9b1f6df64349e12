<script setup lang="ts">
/** How a step of the visit goes, behind a tap: nothing is ticked there, for what is seen is answered below. */
import type { Schemas } from '../api/client'

defineProps<{ hands: Schemas['CheckHands'][] }>()
</script>

<template>
  <details v-if="hands.length">
    <summary class="more">How it goes</summary>
    <ol>
      <template v-for="one in hands" :key="one.check">
        <li v-for="step in one.steps" :key="step.key">{{ step.said }}</li>
      </template>
    </ol>
  </details>
</template>

<style scoped>
ol {
  display: grid;
  gap: 6px;
  margin: 4px 0 0;
  padding-left: 24px;
}
</style>
