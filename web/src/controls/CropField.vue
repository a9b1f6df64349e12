<script setup lang="ts">
/** A crop: one that is known, found by typing, or any other. */
import AutoComplete from 'primevue/autocomplete'
import { ref, useId } from 'vue'

const props = defineProps<{ label: string; known: string[]; wrong?: string | undefined }>()
const value = defineModel<string>({ required: true })
const id = useId()
const found = ref<string[]>([])
/** While the list is open, Enter takes from it, and does not send the form. */
const open = ref(false)
const find = ({ query }: { query: string }) =>
  (found.value = props.known.filter((name) => name.toLowerCase().includes(query.trim().toLowerCase())))
</script>

<template>
  <div class="field" @keydown.enter.capture="open && $event.preventDefault()">
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
      @show="open = true"
      @hide="open = false"
      @update:model-value="value = $event ?? ''"
    />
    <p v-if="wrong" class="wrong">{{ wrong }}</p>
  </div>
</template>
