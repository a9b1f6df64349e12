<script setup lang="ts">
/** A place: its name, zone, open days and units; a new one with the first person in it. */
import { reactive, ref } from 'vue'
import type { CardView, Schemas } from '../api/client'
import FailNote from './FailNote.vue'
import GearForm from './GearForm.vue'
import { useCard } from './cards'

const props = defineProps<{ card?: CardView }>()
const emit = defineEmits<{ done: [id: string] }>()
const { create, edit, fault, failed, current, yours, busy } = useCard()
const person = useCard()
const DAYS: [Schemas['Weekday'], string][] = [
  ['monday', 'Mon'],
  ['tuesday', 'Tue'],
  ['wednesday', 'Wed'],
  ['thursday', 'Thu'],
  ['friday', 'Fri'],
  ['saturday', 'Sat'],
  ['sunday', 'Sun'],
]
const body = props.card?.body.card === 'place' ? props.card.body : null
const zones = Intl.supportedValuesOf('timeZone')
const form = reactive<Schemas['Place']>({
  name: body?.name ?? '',
  zone: body?.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone ?? 'UTC',
  open_days: body ? [...body.open_days] : DAYS.map((d) => d[0]),
  units: body?.units ?? (navigator.language === 'en-US' ? 'us' : 'metric'),
  containers: body?.containers?.map((c) => ({ ...c })) ?? [],
  tools: body?.tools?.map((t) => ({ ...t })) ?? [],
})
const who = ref('')
const made = ref<string>()

function turn(day: Schemas['Weekday']) {
  form.open_days = form.open_days.includes(day)
    ? form.open_days.filter((d) => d !== day)
    : DAYS.map((d) => d[0]).filter((d) => d === day || form.open_days.includes(d))
}
async function send() {
  if (props.card) {
    const card = await edit(props.card, { card: 'place', ...form })
    if (card) emit('done', card.id)
    return
  }
  made.value ??= (await create(null, { card: 'place', ...form }, true))?.id
  if (!made.value) return
  const first = await person.create(made.value, { card: 'person', name: who.value, role: 'caretaker' })
  if (first) emit('done', made.value)
}
</script>

<template>
  <form class="form" @submit.prevent="send">
    <div class="field">
      <label for="place-name">Name of the place</label>
      <input
        id="place-name"
        v-model="form.name"
        required
        maxlength="80"
        autocomplete="off"
        :aria-invalid="!!fault('name')"
      />
      <p class="wrong">{{ fault('name') }}</p>
    </div>
    <div v-if="!card" class="field">
      <label for="place-who">Your name, as it stands in the log</label>
      <input id="place-who" v-model="who" required maxlength="80" autocomplete="off" />
      <p class="wrong">{{ person.fault('name') }}</p>
    </div>
    <div role="group" aria-label="Days on which someone comes">
      <p class="label">Someone comes on</p>
      <div class="chips">
        <button
          v-for="[day, name] in DAYS"
          :key="day"
          class="chip"
          type="button"
          :aria-pressed="form.open_days.includes(day)"
          @click="turn(day)"
        >
          {{ name }}
        </button>
      </div>
      <p class="wrong">{{ fault('open_days') }}</p>
    </div>
    <div class="fields">
      <div class="field">
        <label for="place-zone">Time zone</label>
        <select id="place-zone" v-model="form.zone">
          <option v-if="!zones.includes(form.zone)" :value="form.zone">{{ form.zone }}</option>
          <option v-for="zone in zones" :key="zone" :value="zone">{{ zone.replace(/_/g, ' ') }}</option>
        </select>
        <p class="wrong">{{ fault('zone') }}</p>
      </div>
      <div class="field">
        <label for="place-units">Units</label>
        <select id="place-units" v-model="form.units">
          <option value="metric">Litres, mm, °C</option>
          <option value="us">US gallons, inches, °F</option>
          <option value="imperial">Imperial gallons, inches, °C</option>
        </select>
      </div>
    </div>
    <GearForm
      v-if="card"
      v-model:containers="form.containers!"
      v-model:tools="form.tools!"
      :units="form.units ?? 'metric'"
      :wrong="fault"
    />
    <FailNote :failed="failed || person.failed.value" :current="current" :yours="yours" />
    <button class="button main" type="submit" :disabled="busy">{{ card ? 'Keep' : 'Set up the place' }}</button>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 16px;
}
</style>
