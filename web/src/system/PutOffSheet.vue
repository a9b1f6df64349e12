<script setup lang="ts">
/** Not today: a task is moved to another day within its margin, or skipped this time with a reason. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, as, ask, type Schemas } from '../api/client'
import LoadState from '../parts/LoadState.vue'
import SheetDialog from '../parts/SheetDialog.vue'
import { recorderAt } from '../parts/recorder'
import { choresOf, dayName, type Movable } from './putOff'

const props = defineProps<{ system: string; place: string; today: string; task: Movable }>()
const emit = defineEmits<{ chosen: [putOff: Schemas['PutOff'][], said: string] }>()
const open = defineModel<boolean>('open', { required: true })
const query = useQuery({
  queryKey: ['put-off', () => props.system, () => props.task.code],
  queryFn: () =>
    ask(
      api.GET('/api/systems/{id}/put-off/{code}', {
        params: {
          path: { id: props.system, code: props.task.code },
          header: as(recorderAt(props.place)),
        },
      }),
    ),
  enabled: () => open.value,
  staleTime: 0,
})
const choices = computed(() => query.data.value)
const why = ref('')
const failed = ref('')
watch(open, () => ((why.value = ''), (failed.value = '')))

const chores = computed(() => choresOf(props.task))
const said = (on: string) => (on === props.today ? 'Today' : dayName(on))
const reason = () => (why.value.trim() ? { why: why.value.trim() } : {})
function move(to: string) {
  const day = { how: 'moved' as const, from: choices.value!.due_on, to, ...reason() }
  const moved = chores.value.map((chore) => ({ chore, ...day }))
  emit('chosen', moved, `${props.task.name}: moved to ${said(to)}.`)
  open.value = false
}
function skip() {
  if (!why.value.trim()) return (failed.value = 'Say why, in a few words: it stands in the log.')
  const skipped = chores.value.map((chore) => ({ chore, how: 'skipped' as const, ...reason() }))
  emit('chosen', skipped, `${props.task.name}: skipped this time.`)
  open.value = false
}
</script>

<template>
  <SheetDialog v-model:open="open" :title="`${task.name}: not today`">
    <LoadState v-if="!choices" :error="query.error.value" @again="query.refetch()" />
    <div v-else class="off">
      <p>{{ choices.until }}</p>
      <div class="field">
        <label for="off-why">Why, in a few words</label>
        <input id="off-why" v-model="why" maxlength="2000" autocomplete="off" />
        <p v-if="failed" class="wrong" role="alert">{{ failed }}</p>
      </div>
      <fieldset v-if="choices.days.length">
        <legend>Move it to</legend>
        <div class="days">
          <button v-for="on in choices.days" :key="on" class="button" type="button" @click="move(on)">
            {{ said(on) }}
          </button>
        </div>
      </fieldset>
      <p v-else class="quiet">There is no other open day within its margin.</p>
      <p class="skip">
        <button v-if="choices.skip" class="button" type="button" @click="skip">Skip it this time</button>
        <span class="small quiet">{{ choices.skip_said }}</span>
      </p>
    </div>
  </SheetDialog>
</template>

<style scoped>
.off {
  display: grid;
  gap: 14px;
}
fieldset {
  margin: 0;
  padding: 0;
  border: 0;
}
.days {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.skip {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
}
</style>
