<script setup lang="ts">
/** What was refused; where two versions met, both, field by field where they differ. */
import { computed } from 'vue'
import type { CardView } from '../api/client'

const props = defineProps<{ failed: string; current: CardView | null; yours?: unknown }>()

function flat(value: unknown, path = ''): Record<string, string> {
  if (value === null || value === undefined || typeof value !== 'object') return { [path]: String(value ?? 'nothing') }
  return Object.assign({}, ...Object.entries(value).map(([key, inner]) => flat(inner, path ? `${path} ${key}` : key)))
}
const differ = computed(() => {
  if (!props.current) return []
  const [there, here] = [flat(props.current.body), flat(props.yours)]
  return [...new Set([...Object.keys(there), ...Object.keys(here)])]
    .filter((key) => there[key] !== here[key] && key)
    .map((key) => ({ key: key.replace(/_/g, ' '), there: there[key] ?? 'nothing', here: here[key] ?? 'nothing' }))
})
</script>

<template>
  <div v-if="failed" class="fail" role="alert">
    <p class="wrong">{{ failed }}</p>
    <table v-if="differ.length">
      <thead>
        <tr>
          <th>What</th>
          <th>Stands there now</th>
          <th>Yours</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in differ" :key="row.key">
          <td>{{ row.key }}</td>
          <td>{{ row.there }}</td>
          <td>{{ row.here }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="current" class="small">
      Nothing was overwritten. Open this form again to go on from what stands there now.
    </p>
  </div>
</template>

<style scoped>
.fail {
  display: grid;
  gap: 8px;
}
table {
  border-collapse: collapse;
  width: 100%;
}
th,
td {
  text-align: left;
  padding: 6px 10px 6px 0;
  border-bottom: 1px solid var(--line);
  overflow-wrap: anywhere;
}
</style>
