<script setup lang="ts" generic="K extends string | number | boolean">
/** Some choices side by side; the chosen one, tapped again, is taken back. */
import SelectButton from 'primevue/selectbutton'
import { computed, useId } from 'vue'

const props = defineProps<{
  label: string
  choices: { key: K; name: string; off?: boolean }[]
  several?: boolean
  /** Whether the label stands elsewhere already. */
  silent?: boolean
  keep?: boolean
}>()
const value = defineModel<K | K[] | null | undefined>({ required: true })
const id = useId()
const chosen = computed({ get: () => value.value ?? (props.several ? [] : null), set: (now) => (value.value = now) })
</script>

<template>
  <div class="choice">
    <span :id="id" :class="silent ? 'hidden' : 'label'">{{ label }}</span>
    <SelectButton
      v-model="chosen"
      :options="choices"
      option-label="name"
      option-value="key"
      option-disabled="off"
      :multiple="several ?? false"
      :allow-empty="!keep"
      :aria-labelledby="id"
    >
      <template #option="{ option }"><slot :option="option"></slot>{{ option.name }}</template>
    </SelectButton>
  </div>
</template>

<style scoped>
.choice {
  display: grid;
  gap: 6px;
}
</style>
