<script setup lang="ts">
/** A time of the day, as the API has it: with its seconds. */
defineProps<{ id: string; label: string }>()
const time = defineModel<string | null | undefined>({ required: true })
const typed = (event: Event) => (time.value = `${(event.target as HTMLInputElement).value}:00`)
</script>

<template>
  <div class="field">
    <label :for="id">{{ label }}</label>
    <input :id="id" type="time" required :value="time?.slice(0, 5) ?? ''" @change="typed" />
  </div>
</template>
