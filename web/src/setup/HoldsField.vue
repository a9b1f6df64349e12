<script setup lang="ts">
/** From when an edit holds: from today, from an earlier day, or always, where what stood there was a mistake. */
import { ref, watch } from 'vue'
import type { Schemas } from '../api/client'

defineProps<{ began: string; wrong: string | undefined }>()
const holds = defineModel<Schemas['Holds'] | null>({ required: true })
const today = new Date().toLocaleDateString('sv')
const kind = ref<'today' | 'day' | 'always'>('today')
const day = ref('')
watch([kind, day], () => {
  holds.value = kind.value === 'always' ? 'always' : kind.value === 'day' && day.value ? { from: day.value } : null
})
const CHOICES = [
  ['today', 'From today'],
  ['day', 'From an earlier day'],
  ['always', 'It was always so: what stood here was a mistake'],
] as const
</script>

<template>
  <fieldset class="field holds">
    <legend>From when is this so</legend>
    <label v-for="[key, name] in CHOICES" :key="key" class="tick"
      ><input v-model="kind" type="radio" name="holds" :value="key" /> {{ name }}</label
    >
    <div v-if="kind === 'day'" class="field">
      <label for="holds-day">The day</label>
      <input id="holds-day" v-model="day" type="date" required :min="began" :max="today" />
    </div>
    <p class="small quiet">What was recorded before stays judged by what stood here then.</p>
    <p v-if="wrong" class="wrong">{{ wrong }}</p>
  </fieldset>
</template>

<style scoped>
.holds {
  border: 0;
  padding: 12px 0 0;
  margin: 0;
  border-top: 1px solid var(--line);
  display: grid;
  gap: 2px;
}
legend {
  font-weight: 650;
  padding: 0;
  float: left;
}
</style>
