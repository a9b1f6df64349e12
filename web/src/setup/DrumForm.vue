<script setup lang="ts">
/** How large the reservoir behind the float valve is, so that its water can be read by height, and what it takes is known. */
import { ref } from 'vue'
import type { Schemas } from '../api/client'
import type { Units } from '../api/units'
import ReservoirForm from './ReservoirForm.vue'

const props = defineProps<{
  units: Units
  start: Schemas['Shape'] | null
  wrong: (path: string) => string | undefined
}>()
const begun: Schemas['Reservoir'] | null = props.start
  ? { shape: props.start, minimum: 0, working: 0, maximum: 0 }
  : null
const vessel = ref<Schemas['Reservoir'] | null>(begun)
const form = ref<InstanceType<typeof ReservoirForm>>()
/** Its size as it was typed last; none where nothing is typed; or why it cannot be. */
async function settle(): Promise<{ drum: Schemas['Shape'] | null } | { why: string }> {
  if (!form.value?.typed()) return { drum: null }
  const settled = await form.value.settle()
  return 'why' in settled ? settled : { drum: settled.vessel.shape }
}
defineExpose({ settle })
</script>

<template>
  <ReservoirForm
    ref="form"
    v-model="vessel"
    legend="The top-off reservoir behind the float valve, if you know its size"
    :units="units"
    :start="begun"
    :runs-home="0"
    :wrong="wrong"
  />
  <p v-if="wrong('drum')" class="wrong">{{ wrong('drum') }}</p>
</template>
