<script setup lang="ts">
/** A crop: one that is known, found by typing, or any other. */
import AutoComplete from 'primevue/autocomplete'
import { ref, useId } from 'vue'

const props = defineProps<{ label: string; known: string[]; wrong?: string | undefined }>()
const value = defineModel<string>({ required: true })
const id = useId()
const found = ref<string[]>([])
/** While the list is open, Enter takes from it, and does not send the form: open from its first moment, not from when
 * it has faded in. */
const take = (enter: KeyboardEvent) =>
  (enter.target as Element).getAttribute('aria-expanded') === 'true' && enter.preventDefault()
const find = ({ query }: { query: string }) =>
  (found.value = props.known.filter((name) => name.toLowerCase().includes(query.trim().toLowerCase())))
</script>

<template>
  <div class="field" @keydown.enter.capture="take">
    <label :for="id">{{ label }}</label>
    <AutoComplete
      :model-value="value"
      :input-id="id"
      :suggestions="found"
      :min-length="1"
      :delay="0"
      required
      maxlength="80"
      autocomplete="off"
      @complete="find"
      @update:model-value="value = $event ?? ''"
    />
    <p v-if="wrong" class="wrong">{{ wrong }}</p>
  </div>
</template>
