<script setup lang="ts">
/** From when an edit holds: from today, from an earlier day, or always, where what stood there was a mistake. */
import { ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import DayField from '../controls/DayField.vue'
import RadioChips from '../controls/RadioChips.vue'

defineProps<{ began: string; wrong: string | undefined }>()
const holds = defineModel<Schemas['Holds'] | null>({ required: true })
const kind = ref<'today' | 'day' | 'always'>('today')
const day = ref<string | null>(null)
watch([kind, day], () => {
  holds.value = kind.value === 'always' ? 'always' : kind.value === 'day' && day.value ? { from: day.value } : null
})
const CHOICES: { key: 'today' | 'day' | 'always'; name: string }[] = [
  { key: 'today', name: 'From today' },
  { key: 'day', name: 'From an earlier day' },
  { key: 'always', name: 'Always: a mistake stood here' },
]
</script>

<template>
  <div class="holds">
    <p class="label">From when is this so?</p>
    <RadioChips v-model="kind" label="From when is this so?" :choices="CHOICES" />
    <DayField v-if="kind === 'day'" v-model="day" label="The day" wanted :from="began" />
    <p class="small quiet">What was recorded before stays judged by what stood here then.</p>
    <p v-if="wrong" class="wrong">{{ wrong }}</p>
  </div>
</template>

<style scoped>
.holds {
  padding-top: 12px;
  border-top: 1px solid var(--line);
  display: grid;
  gap: 8px;
}
</style>
