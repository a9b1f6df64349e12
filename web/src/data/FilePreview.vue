<script setup lang="ts">
/** The first lines of a file, as they are understood: when by the clock of the place, at which system, and what is odd. */
import { computed } from 'vue'
import { dayAndTime } from '../parts/placeTime'
import { sayFound, type Schemas } from '../api/client'

const props = defineProps<{ looked: Schemas['LookedView'] }>()
type Row = Schemas['RowView']
const system = (row: Row) => props.looked.systems.find((one) => one.id === row.system)
const shown = computed(() =>
  props.looked.how.columns
    .map((column, n) => ({ column, n }))
    .filter(({ column }) => props.looked.kinds.some((kind) => kind.is === column.is && kind.reads)),
)
</script>

<template>
  <div class="scroll" tabindex="0" role="region" aria-label="The first lines">
    <table>
      <thead>
        <tr>
          <th scope="col">When</th>
          <th v-for="{ n } in shown" :key="n" scope="col">{{ looked.head[n] || `Column ${n + 1}` }}</th>
        </tr>
      </thead>
      <tbody>
        <template v-for="(row, at) in looked.rows" :key="at">
          <tr :class="{ odd: row.why }">
            <td>
              <span>{{ row.at ? dayAndTime(row.at, system(row)?.zone) : '—' }}</span>
              <span class="small quiet">{{ system(row)?.name }}</span>
            </td>
            <td v-for="{ n } in shown" :key="n" :class="{ wrong: row.column === n }">{{ row.cells[n] }}</td>
          </tr>
          <tr v-if="row.why" class="why">
            <td :colspan="shown.length + 1">
              <p>{{ sayFound(row.why) }}</p>
            </td>
          </tr>
        </template>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
table {
  border-collapse: collapse;
  min-width: 100%;
}
th,
td {
  padding: 6px 14px 6px 0;
  border-top: 1px solid var(--line);
  text-align: left;
  white-space: nowrap;
  font-variant-numeric: tabular-nums;
}
td span {
  display: block;
}
th {
  border-top: 0;
  font-weight: 650;
  white-space: normal;
  vertical-align: bottom;
}
@media (max-width: 480px) {
  th,
  td {
    padding-right: 8px;
  }
}
/* What is odd is read without scrolling, however wide the table is. */
.why p {
  position: sticky;
  left: 0;
  width: min(100%, calc(100vw - 32px));
}
.why td {
  border-top: 0;
  padding-top: 0;
  color: var(--alarm);
  white-space: normal;
}
td.wrong {
  text-decoration: underline wavy var(--alarm);
}
</style>
