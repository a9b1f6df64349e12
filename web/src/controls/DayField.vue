<script setup lang="ts">
/** A day, typed or picked off a calendar; held as 2027-03-09. */
import DatePicker from 'primevue/datepicker'
import { computed, useId } from 'vue'

const props = defineProps<{
  label: string
  wrong?: string | undefined
  from?: string
  until?: string
  wanted?: boolean
}>()
const value = defineModel<string | null | undefined>({ required: true })
const id = useId()
/** Noon, so that no clock change moves the day. */
const read = (day: string | null | undefined) => (day ? new Date(`${day}T12:00:00`) : null)
const write = (date: Date) => {
  const two = (part: number) => String(part).padStart(2, '0')
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`
}
const date = computed({
  get: () => read(value.value),
  set: (now: Date | null) => (value.value = now instanceof Date ? write(now) : null),
})
const bound = (day: string | undefined) => read(day) ?? undefined
</script>

<template>
  <div class="field">
    <label :for="id">{{ label }}</label>
    <DatePicker
      v-model="date"
      :input-id="id"
      date-format="yy-mm-dd"
      placeholder="Year-month-day"
      :min-date="bound(props.from)"
      :max-date="bound(props.until)"
      :required="wanted"
      show-other-months
      select-other-months
      :aria-label="undefined"
    />
    <p v-if="wrong" class="wrong">{{ wrong }}</p>
  </div>
</template>
