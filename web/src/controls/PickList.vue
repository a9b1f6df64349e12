<script setup lang="ts" generic="K extends string">
/** One of many, found by typing. */
import Select from 'primevue/select'
import { computed, useId } from 'vue'

export interface Pick_<T extends string> {
  key: T
  name: string
  group?: string
}
const props = defineProps<{
  label: string
  choices: Pick_<K>[]
  none?: string
  wrong?: string | undefined
}>()
const value = defineModel<K | null | undefined>({ required: true })
const id = useId()
/** The library takes an empty text for nothing chosen: what stands for none has a name of its own. */
const NONE = '—' as K
const all = computed(() =>
  props.none === undefined ? props.choices : [{ key: NONE, name: props.none }, ...props.choices],
)
const grouped = computed(() => {
  const groups: { group: string; items: Pick_<K>[] }[] = []
  for (const choice of all.value) {
    const last = groups.at(-1)
    if (last && last.group === (choice.group ?? '')) last.items.push(choice)
    else groups.push({ group: choice.group ?? '', items: [choice] })
  }
  return groups
})
const byGroup = computed(() => all.value.some((choice) => choice.group))
const chosen = computed({
  get: () => value.value ?? NONE,
  set: (now: K) => (value.value = now === NONE && props.none !== undefined ? null : now),
})
</script>

<template>
  <div class="field">
    <label :id="`${id}-label`" :for="id">{{ label }}</label>
    <Select
      v-model="chosen"
      :input-id="id"
      :aria-labelledby="`${id}-label`"
      :options="byGroup ? grouped : all"
      :option-group-label="byGroup ? 'group' : undefined"
      :option-group-children="byGroup ? 'items' : undefined"
      option-label="name"
      option-value="key"
      :filter="all.length > 7"
      auto-filter-focus
      filter-placeholder="Type to find"
      empty-filter-message="Nothing like that here"
      :fluid="true"
      placeholder="Choose"
    >
      <template #dropdownicon><span aria-hidden="true">▾</span></template>
      <template #optiongroup="{ option }"
        ><span v-if="option.group">{{ option.group }}</span></template
      >
    </Select>
    <p v-if="wrong" class="wrong">{{ wrong }}</p>
  </div>
</template>
