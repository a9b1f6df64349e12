<script setup lang="ts">
/** What stopped: a power cut, or a hand that switches off for a moment and must not forget to plug in again. */
import { computed, ref } from 'vue'
import { ApiError, newId, type Schemas, type SystemView } from '../api/client'
import { notify } from '../parts/notice'
import { recorderAt } from '../parts/recorder'
import { useStartTimer } from '../parts/timers'
import { useRecord } from './record'

const props = defineProps<{ view: SystemView }>()
const { recordAndSay } = useRecord()
const startTimer = useStartTimer()
const busy = ref(false)
const plug = computed(() => props.view.runs.some((part) => part.key === 'plug_right'))

async function tell(what: 'power_cut' | 'switched_off', said: string) {
  const by = recorderAt(props.view.place.id)
  if (!by) return notify('Pick who is recording first, beside the log.')
  busy.value = true
  const system = props.view.card.id
  try {
    const event = { what } as Schemas['Happened']
    await recordAndSay(system, by, { id: newId(), body: { kind: 'visit', events: [event] } }, said)
    if (what === 'switched_off' && props.view.off) await startTimer(system, props.view.off)
  } catch (error) {
    notify(error instanceof ApiError ? error.message : 'That could not be recorded.')
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <details v-if="plug" class="stopped">
    <summary>Pump off, or a power cut</summary>
    <p class="ways">
      <button
        v-if="view.off"
        class="button"
        type="button"
        :disabled="busy"
        @click="tell('switched_off', `Noted. In ${view.off.minutes} minutes you are reminded to plug it in again.`)"
      >
        I switch it off for a moment
      </button>
      <button
        class="button"
        type="button"
        :disabled="busy"
        @click="tell('power_cut', 'Noted. See now what runs, and set the timer.')"
      >
        The power was cut
      </button>
    </p>
  </details>
</template>

<style scoped>
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
summary {
  display: flex;
  align-items: center;
  min-height: var(--touch);
  cursor: pointer;
}
</style>
