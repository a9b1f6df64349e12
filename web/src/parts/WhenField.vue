<script setup lang="ts">
/** When it was: now unless something else is said, on the clock of this device. */
import { computed, ref, useId } from 'vue'

const at = defineModel<string | null>({ required: true })
const id = useId()
type Key = 'now' | 'hour' | 'evening' | 'other'
const key = ref<Key>('now')
const typed = ref('')
const evening = () => {
  const day = new Date()
  day.setDate(day.getDate() - 1)
  day.setHours(19, 0, 0, 0)
  return day
}
const latest = computed(() => {
  const now = new Date()
  return new Date(now.getTime() - now.getTimezoneOffset() * 60_000).toISOString().slice(0, 16)
})
function choose(next: Key) {
  key.value = next
  if (next === 'now') at.value = null
  else if (next === 'hour') at.value = new Date(Date.now() - 3_600_000).toISOString()
  else if (next === 'evening') at.value = evening().toISOString()
  else put(typed.value || latest.value)
}
function put(text: string) {
  typed.value = text
  const date = new Date(text)
  at.value = text && !Number.isNaN(date.getTime()) ? date.toISOString() : null
}
</script>

<template>
  <div class="when">
    <div class="field">
      <label :for="id">When it was</label>
      <select :id="id" :value="key" @change="choose(($event.target as HTMLSelectElement).value as Key)">
        <option value="now">Now</option>
        <option value="hour">An hour ago</option>
        <option value="evening">Yesterday evening</option>
        <option value="other">Another day and time</option>
      </select>
    </div>
    <div v-if="key === 'other'" class="field">
      <label :for="`${id}-at`">Day and time (left empty: now)</label>
      <input
        :id="`${id}-at`"
        type="datetime-local"
        :max="latest"
        :value="typed"
        @input="put(($event.target as HTMLInputElement).value)"
      />
    </div>
  </div>
</template>

<style scoped>
.when {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 12px;
}
</style>
