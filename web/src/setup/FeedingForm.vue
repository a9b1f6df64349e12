<script setup lang="ts">
/** How the timer feeds, where nothing comes back: so often a day, so much each time. */
import { computed, ref } from 'vue'
import type { Schemas } from '../api/client'
import type { Units } from '../api/units'
import NumberField from '../parts/NumberField.vue'

const props = defineProps<{ units: Units; wrong: (path: string) => string | undefined }>()
const feeding = defineModel<Schemas['Feeding'] | null | undefined>({ required: true })
const often = ref(feeding.value?.times ?? null)
const much = ref(feeding.value?.litres ?? null)
/** Half of a schedule is none yet. */
function put() {
  feeding.value = often.value === null || much.value === null ? null : { times: often.value, litres: much.value }
}
const times = computed<number | null>({
  get: () => often.value,
  set: (value) => ((often.value = value === null ? null : Math.round(value)), put()),
})
const litres = computed<number | null>({
  get: () => (much.value === null ? null : props.units.toVolume(much.value)),
  set: (value) => ((much.value = value === null ? null : props.units.fromVolume(value)), put()),
})
const half = computed(() => (often.value === null) !== (much.value === null))
const a_day = computed(() => (feeding.value ? props.units.toVolume(feeding.value.times * feeding.value.litres) : null))
defineExpose({ half })
</script>

<template>
  <div class="fields">
    <NumberField v-model="times" label="Feeds a day" :wrong="wrong('feeding.times') ?? wrong('feeding')" />
    <NumberField
      v-model="litres"
      label="One feed, all drippers together"
      :unit="units.volume"
      :wrong="half ? 'Both together tell what is given a day.' : wrong('feeding.litres')"
      :hint="a_day === null ? 'Let them run into a jug for one feed.' : `That is ${a_day} ${units.volume} a day.`"
    />
  </div>
</template>
