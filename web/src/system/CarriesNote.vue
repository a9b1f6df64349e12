<script setup lang="ts">
/** Whether the vessel carries what grows in it to the harvest, and what would help where it does not. */
import type { Schemas } from '../api/client'

defineProps<{ carries: Schemas['Carries'] }>()
</script>

<template>
  <div class="carries" :class="carries.tone" role="status">
    <p>
      <strong>{{ carries.finding }}</strong>
    </p>
    <p class="small">{{ carries.why }}</p>
    <template v-if="carries.helps.length">
      <p class="small">Any one of these is enough:</p>
      <ul class="small">
        <li v-for="help in carries.helps" :key="help">{{ help }}</li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
.carries {
  display: grid;
  gap: 4px;
  padding: 8px 14px;
  border-left: 4px solid var(--line-2);
  max-width: 640px;
}
.watch,
.act {
  border-color: var(--watch);
  background: var(--watch-wash);
}
.fine strong {
  font-weight: 500;
}
ul {
  padding-left: 20px;
  list-style: disc;
}
</style>
