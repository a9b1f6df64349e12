<script setup lang="ts">
/** A band of one's own, from one end to the other; both left empty, the usual one holds. */
import { ref, watch } from 'vue'
import NumberField from '../parts/NumberField.vue'

const props = defineProps<{
  label: string
  unit?: string
  hint?: string
  wrong: (path: string) => string | undefined
  path: string
  /** From what is kept to what is shown, and back. */
  shown?: (kept: number) => number
  kept?: (shown: number) => number
}>()
type Band = { low: number; high: number }
const band = defineModel<Band | null | undefined>({ required: true })
const shown = (value: number | undefined) => (value === undefined ? null : (props.shown?.(value) ?? value))
const kept = (value: number) => props.kept?.(value) ?? value
const low = ref<number | null>(shown(band.value?.low))
const high = ref<number | null>(shown(band.value?.high))
watch([low, high], ([from, to]) => {
  // One end alone is no band: it is sent as it is, so that the answer says what is missing.
  if (from === null && to === null) band.value = null
  else band.value = { low: kept(from ?? to!), high: kept(to ?? from!) }
})
</script>

<template>
  <fieldset class="band" :class="{ long: (unit ?? '').length > 5 }">
    <legend class="label">{{ label }}</legend>
    <div class="ends">
      <NumberField v-model="low" label="From" :unit="unit ?? ''" :wrong="wrong(`${path}.low`)" />
      <NumberField v-model="high" label="To" :unit="unit ?? ''" :wrong="wrong(`${path}.high`)" />
    </div>
    <p v-if="hint" class="small quiet">{{ hint }}</p>
  </fieldset>
</template>

<style scoped>
.band {
  min-width: 0;
}
.ends {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 12px;
}
/* A long unit fills half a field on a phone: one end under the other there. */
@media (max-width: 600px) {
  .long .ends {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
