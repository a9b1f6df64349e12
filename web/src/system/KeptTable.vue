<script setup lang="ts">
/** How care was kept over four weeks: done, late, missed, skipped and moved, each apart. */
import type { Schemas } from '../api/client'
import CsvButtons from '../parts/CsvButtons.vue'

defineProps<{ kept: Schemas['KeptLine'][] }>()
const columns = ['done', 'late', 'missed', 'skipped', 'moved'] as const
const amiss = (line: Schemas['KeptLine']) => line.missed > 0
</script>

<template>
  <details>
    <summary>
      Kept over four weeks<span v-if="kept.some(amiss)" class="small quiet"
        >: {{ kept.filter(amiss).length }} of {{ kept.length }} missed at times</span
      >
    </summary>
    <div class="scroll" tabindex="0" role="region" aria-label="Kept over four weeks">
      <table>
        <thead>
          <tr>
            <th scope="col">Check</th>
            <th v-for="column in columns" :key="column" scope="col" class="num">{{ column }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="line in kept" :key="line.code">
            <th scope="row">{{ line.name }}</th>
            <td
              v-for="column in columns"
              :key="column"
              class="num"
              :class="{ none: !line[column], amiss: column === 'missed' && line.missed }"
            >
              {{ line[column] }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <CsvButtons
      name="kept"
      :head="['Check', ...columns]"
      :rows="kept.map((line) => [line.name, ...columns.map((column) => line[column])])"
    />
    <p class="small quiet">
      Late: after its day, within its slack. Missed: its slack passed before it was done. Skipped and moved: with a word
      in the log.
    </p>
  </details>
</template>

<style scoped>
summary {
  min-height: var(--touch);
  align-content: center;
  font-weight: 650;
  cursor: pointer;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th {
  text-align: left;
  font-weight: 500;
}
thead th {
  font-size: 14px;
  color: var(--ink-2);
}
th,
td {
  padding: 6px 8px 6px 0;
  border-bottom: 1px solid var(--line);
}
.num {
  text-align: right;
}
.none {
  color: var(--ink-2);
}
.amiss {
  font-weight: 750;
  color: var(--alarm);
}
</style>
