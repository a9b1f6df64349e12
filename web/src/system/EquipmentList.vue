<script setup lang="ts">
/** What stands here beside the vessel: since when, what comes next, and what its failing costs. */
import type { SystemView } from '../api/client'

defineProps<{ view: SystemView }>()
</script>

<template>
  <ul class="equipment">
    <li v-for="piece in view.equipment" :key="piece.id" :class="{ bare: piece.bare }">
      <p>
        <strong>{{ piece.name }}</strong>
      </p>
      <p v-if="piece.cost" class="cost">{{ piece.cost }}</p>
      <p class="small quiet">{{ piece.since }} {{ piece.next }}</p>
    </li>
  </ul>
</template>

<style scoped>
.equipment {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(280px, 100%), 1fr));
  gap: 4px 24px;
  padding: 0;
  list-style: none;
}
li {
  padding: 8px 0 8px 12px;
  border-left: 4px solid var(--line);
}
.bare {
  border-left-color: var(--watch);
}
.bare .cost {
  color: var(--watch);
  font-weight: 600;
}
</style>
