<script setup lang="ts">
/** Days of one's own over the usual ones, a field a check: between two of it, or how late it may be. */
import type { Schemas } from '../api/client'
import NumberField from '../parts/NumberField.vue'

type Facts = Schemas['Knowledge']['checks'][number]
const props = defineProps<{
  checks: Facts[]
  /** Where they stand on the card. */ path: 'intervals' | 'slacks'
  wrong: (path: string) => string | undefined
}>()
const own = defineModel<Record<string, number>>({ default: () => ({}) })
const usual = (facts: Facts) => (props.path === 'intervals' ? facts.days : facts.slack)
function put(key: string, value: number | null) {
  const next = { ...own.value }
  if (value === null) delete next[key]
  else next[key] = props.path === 'intervals' ? Math.round(value) : value
  own.value = next
}
</script>

<template>
  <div class="fields">
    <NumberField
      v-for="c in checks"
      :key="c.key"
      :model-value="own[c.key] ?? null"
      :label="c.name"
      unit="days"
      :hint="`Usually ${usual(c)}`"
      :wrong="wrong(`${path}.${c.key}`)"
      @update:model-value="put(c.key, $event)"
    />
  </div>
</template>
