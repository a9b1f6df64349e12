<script setup lang="ts">
/** What makes the next loss likelier here: three at most in sight, the rest behind a tap. */
import { computed } from 'vue'
import type { Schemas } from '../api/client'

const props = defineProps<{ risks: Schemas['Risk'][] }>()
const IN_SIGHT = 3
const first = computed(() => props.risks.slice(0, IN_SIGHT))
const rest = computed(() => props.risks.slice(IN_SIGHT))
</script>

<template>
  <div class="risks">
    <h2>What to guard against</h2>
    <ul>
      <li v-for="risk in first" :key="risk.key">
        <strong>{{ risk.finding }}.</strong> {{ risk.doing }} <span class="small quiet">{{ risk.how_much }}</span>
      </li>
    </ul>
    <details v-if="rest.length">
      <summary class="more">{{ rest.length }} more</summary>
      <ul>
        <li v-for="risk in rest" :key="risk.key">
          <strong>{{ risk.finding }}.</strong> {{ risk.doing }} <span class="small quiet">{{ risk.how_much }}</span>
        </li>
      </ul>
    </details>
  </div>
</template>

<style scoped>
.risks,
ul {
  display: grid;
  gap: 10px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  padding-left: 12px;
  border-left: 3px solid var(--line-2);
}
</style>
