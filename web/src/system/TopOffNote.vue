<script setup lang="ts">
/** What the chosen way of topping off does to the strength, and what another would do. */
import { RouterLink } from 'vue-router'
import type { Schemas, SystemView } from '../api/client'

defineProps<{ advice: Schemas['TopOffAdvice']; view: SystemView }>()
</script>

<template>
  <div class="note" :class="{ drifting: advice.drifting }">
    <p>
      <strong>{{ advice.drifting ? 'Topping off drifts the tank.' : 'Topping off suits it.' }}</strong>
      {{ advice.finding }}. <template v-if="advice.drifting">{{ advice.next }}</template>
    </p>
    <details>
      <summary>What each method would do</summary>
      <table>
        <tbody>
          <tr v-for="(m, i) in advice.methods" :key="m.method">
            <td>{{ m.name }}<span v-if="i === 0" class="quiet"> (now)</span></td>
            <td class="num">{{ m.said }}</td>
          </tr>
        </tbody>
      </table>
      <p class="small quiet">{{ advice.sure }}</p>
    </details>
    <RouterLink class="small" :to="{ path: '/bench', query: { for: 'top_off', system: view.card.id } }"
      >Work out a top-off</RouterLink
    >
  </div>
</template>

<style scoped>
.note {
  font-size: 15px;
  padding: 10px 14px;
  border-left: 4px solid var(--water);
  background: var(--water-wash);
}
.note.drifting {
  border-left-color: var(--watch);
  background: var(--watch-wash);
}
table {
  width: 100%;
  border-collapse: collapse;
}
td {
  padding: 5px 8px 5px 0;
  border-bottom: 1px solid var(--line);
  vertical-align: top;
}
a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
}
</style>
