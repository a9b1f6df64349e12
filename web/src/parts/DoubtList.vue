<script setup lang="ts">
/** What is more likely a slip: asked once, before it is saved. */
import type { Schemas } from '../api/client'

defineProps<{ doubts: Schemas['Doubt'][] }>()
defineEmits<{ said: [question: string] }>()
</script>

<template>
  <div v-for="doubt in doubts" :key="doubt.question" class="doubt">
    <p>{{ doubt.question }}</p>
    <button class="button" type="button" @click="$emit('said', doubt.question)">Yes, that is right</button>
  </div>
</template>

<style scoped>
.doubt {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
  padding: 10px 14px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
.doubt p {
  flex: 1 1 240px;
}
</style>
