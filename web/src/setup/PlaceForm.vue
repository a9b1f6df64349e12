<script setup lang="ts">
/** A place: its name, zone, open days and units; a new one with the first person in it. */
import { computed, reactive, ref } from 'vue'
import type { CardView, Schemas } from '../api/client'
import { useChoices } from '../api/queries'
import ChoiceChips from '../controls/ChoiceChips.vue'
import PickList from '../controls/PickList.vue'
import { beHere } from '../door/beHere'
import { useKept } from '../parts/kept'
import FailNote from './FailNote.vue'
import KeptNote from './KeptNote.vue'
import GearForm from './GearForm.vue'
import { useCard } from './cards'

const props = defineProps<{ card?: CardView }>()
const emit = defineEmits<{ done: [id: string]; again: [] }>()
const { create, edit, fault, failed, current, yours, busy } = useCard()
const person = useCard()
const choices = useChoices()
const WEEK: Schemas['Weekday'][] = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday']
const kept = useKept<Schemas['Place'] & { who: string }>(props.card ? null : 'place')
const body = props.card?.body.card === 'place' ? props.card.body : kept.before
const form = reactive<Schemas['Place']>({
  name: body?.name ?? '',
  zone: body?.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone ?? 'UTC',
  open_days: body ? [...body.open_days] : [...WEEK],
  closures: body?.closures?.map((c) => ({ ...c })) ?? [],
  units: body?.units ?? (navigator.language === 'en-US' ? 'us' : 'metric'),
  containers: body?.containers?.map((c) => ({ ...c })) ?? [],
  tools: body?.tools?.map((t) => ({ ...t })) ?? [],
})
/** Zones in the order of the world, each found by typing a part of its name. */
const zones = computed(() => {
  const known = Intl.supportedValuesOf('timeZone')
  const all = known.includes(form.zone) ? known : [form.zone, ...known]
  return all.map((key) => ({ key, name: key.replace(/_/g, ' ') }))
})
const zone = computed({ get: () => form.zone, set: (now) => now && (form.zone = now) })
const who = ref(kept.before?.who ?? '')
const made = ref<string>()

/** In the week's order, whatever they were tapped in. */
const days = computed({
  get: () => form.open_days,
  set: (chosen) => (form.open_days = WEEK.filter((day) => chosen.includes(day))),
})
async function send() {
  if (props.card) {
    const card = await edit(props.card, { card: 'place', ...form })
    if (card) emit('done', card.id)
    return
  }
  made.value ??= (await create(null, { card: 'place', ...form }, true))?.id
  if (!made.value) return
  const first = await person.create(made.value, { card: 'person', name: who.value, role: 'caretaker' })
  if (first) {
    await beHere(first.id)
    kept.forget()
    emit('done', made.value)
  }
}
function startOver() {
  kept.forget()
  emit('again')
}
kept.keep(() => ({ ...form, who: who.value }))
</script>

<template>
  <form class="form" @submit.prevent="send">
    <KeptNote v-if="kept.before" @drop="startOver" />
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
    <div>
      <ChoiceChips v-model="days" label="Someone comes on" :choices="choices<Schemas['Weekday']>('weekday')" several />
      <p class="wrong">{{ fault('open_days') }}</p>
    </div>
    <div class="fields">
      <PickList v-model="zone" label="Time zone" :choices="zones" :wrong="fault('zone')" />
      <div class="field">
        <label for="place-units">Units</label>
        <select id="place-units" v-model="form.units">
          <option v-for="u in choices('unit_system')" :key="u.key" :value="u.key">{{ u.name }}</option>
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
    <button class="button main" type="submit" :disabled="busy">{{ card ? 'Save' : 'Set up the place' }}</button>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 16px;
}
</style>
