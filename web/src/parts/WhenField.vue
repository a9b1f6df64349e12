<script setup lang="ts">
/** When it was: now unless something else is said, on the clock of the place. */
import { computed, ref, useId, watch } from 'vue'
import { nowThere } from '../api/client'
import DayField from '../controls/DayField.vue'
import { clockAt, dayFrom, instantAt } from './placeTime'

const props = defineProps<{
  zone: string
  /** When it is held to have been, until something else is said. */ held?: string | null
}>()
const at = defineModel<string | null>({ required: true })
/** Whether it can be saved so: no day and time that cannot be are taken for now. */
const ready = defineModel<boolean>('ready', { default: true })
const id = useId()
type Key = 'now' | 'hour' | 'evening' | 'other'
const first = at.value ?? props.held
const key = ref<Key>(first ? 'other' : 'now')
const held = computed(() => clockAt(props.zone, first ? new Date(first) : nowThere()))
const day = ref<string | null>(held.value.day)
const time = ref(held.value.time)
const today = computed(() => clockAt(props.zone, nowThere()).day)
const wrong = ref('')

watch(at, (now) => {
  if (now === null && !props.held && !wrong.value) key.value = 'now'
  // Said by the page: a visit that is of another day.
  if (now !== null && key.value === 'now') {
    const said = clockAt(props.zone, new Date(now))
    ;[key.value, day.value, time.value] = ['other', said.day, said.time]
  }
})
watch(wrong, (now) => (ready.value = !now))
function choose(next: Key) {
  key.value = next
  wrong.value = ''
  if (next === 'now') at.value = null
  else if (next === 'hour') at.value = new Date(nowThere().getTime() - 3_600_000).toISOString()
  else if (next === 'evening')
    at.value = instantAt(props.zone, dayFrom(today.value, -1), '19:00')?.toISOString() ?? null
  else put()
}
function put() {
  const found = day.value ? instantAt(props.zone, day.value, time.value) : null
  wrong.value = !found
    ? 'A day and a time are wanted.'
    : found > nowThere()
      ? 'That is still to come: pick a time that has passed.'
      : ''
  at.value = found && !wrong.value ? found.toISOString() : (props.held ?? null)
}
watch([day, time], () => key.value === 'other' && put())
</script>

<template>
  <div class="when">
    <div v-if="!props.held" class="field">
      <label :for="id">When it was</label>
      <select :id="id" :value="key" @change="choose(($event.target as HTMLSelectElement).value as Key)">
        <option value="now">Now</option>
        <option value="hour">An hour ago</option>
        <option value="evening">Yesterday evening</option>
        <option value="other">Another day and time</option>
      </select>
    </div>
    <template v-if="key === 'other'">
      <DayField v-model="day" label="Day" :until="today" />
      <div class="field">
        <label :for="`${id}-at`">Time</label>
        <input :id="`${id}-at`" v-model="time" type="time" required />
      </div>
      <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
    </template>
  </div>
</template>

<style scoped>
.when {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(160px, 1fr));
  gap: 12px;
}
.wrong {
  grid-column: 1 / -1;
}
</style>
