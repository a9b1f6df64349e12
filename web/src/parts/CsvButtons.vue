<script setup lang="ts">
/** The table above as CSV: copied, or saved. */
import { copyCsv, saveCsv, toCsv, type Cell } from './csv'

const props = defineProps<{ name: string; head: string[]; rows: Cell[][] }>()
const text = () => toCsv(props.head, props.rows)
</script>

<template>
  <p class="csv">
    <button class="button plain" type="button" @click="copyCsv(text())">Copy as CSV</button>
    <button class="button plain" type="button" @click="saveCsv(name, text())">Save as CSV</button>
  </p>
</template>

<style scoped>
.csv {
  display: flex;
  flex-wrap: wrap;
  gap: 0 10px;
}
@media print {
  .csv {
    display: none;
  }
}
</style>
