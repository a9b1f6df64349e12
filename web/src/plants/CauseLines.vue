<script setup lang="ts">
/** Why it may be this cause: what is going on, what speaks for it and against it. */
import type { Schemas } from '../api/client'

defineProps<{ cause: Schemas['Ranked'] }>()
</script>

<template>
  <div class="lines">
    <p>{{ cause.means }}</p>
    <template v-if="cause.speaks_for.length">
      <p class="label">Speaks for it</p>
      <ul>
        <li v-for="line in cause.speaks_for" :key="line">{{ line }}</li>
      </ul>
    </template>
    <template v-if="cause.against.length">
      <p class="label">Speaks against it</p>
      <ul>
        <li v-for="line in cause.against" :key="line" class="quiet">{{ line }}</li>
      </ul>
    </template>
    <p class="small quiet">{{ cause.unless }}</p>
  </div>
</template>

<style scoped>
.lines {
  display: grid;
  gap: 6px;
}
ul {
  display: grid;
  gap: 4px;
  margin: 0;
  padding-left: 18px;
  list-style: disc;
}
</style>
