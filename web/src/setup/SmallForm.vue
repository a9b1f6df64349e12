<script setup lang="ts">
/** A person or a meter of a place. */
import { computed, reactive } from 'vue'
import { newSecret, type Card, type CardView, type Schemas } from '../api/client'
import { useChoices } from '../api/queries'
import { useUnits } from '../api/units'
import NumberField from '../parts/NumberField.vue'
import FailNote from './FailNote.vue'
import MeterScale from './MeterScale.vue'
import { useCard } from './cards'

const props = defineProps<{
  place: string
  /** The units of the place. */ units?: Schemas['UnitSystem']
  what: 'person' | 'meter'
  card?: CardView
}>()
const emit = defineEmits<{ done: [] }>()
const { create, edit, fault, failed, current, yours, busy } = useCard()
const person = props.card?.body.card === 'person' ? props.card.body : null
const meter = props.card?.body.card === 'meter' ? props.card.body : null
const choices = useChoices()
const form = reactive<{
  name: string
  role: Schemas['Role']
  scale: Schemas['EcScale'] | ''
  compensated: boolean
  units: Schemas['UnitSystem'] | ''
  reads: Schemas['EcScale'] | ''
  lifts: number | null
  feed: string | null
}>({
  feed: person?.feed ?? null,
  lifts: person?.lifts_kg ?? null,
  units: person?.units ?? '',
  reads: person?.ec_scale ?? '',
  name: person?.name ?? meter?.name ?? '',
  role: person?.role ?? 'helper',
  scale: meter?.scale ?? '',
  compensated: meter?.compensated ?? true,
})
/** In the units that they read themselves, else in those of the place. */
const units = useUnits(computed(() => form.units || props.units))
const lifts = computed({
  get: () => (form.lifts === null ? null : units.value.toWeight(form.lifts)),
  set: (weight) => (form.lifts = weight === null ? null : units.value.fromWeight(weight)),
})
const address = computed(() => `${location.origin}/calendar/${form.feed}.ics`)
async function send() {
  if (props.what === 'meter' && !form.scale) return
  const body: Card =
    props.what === 'person'
      ? {
          card: 'person',
          name: form.name,
          role: form.role,
          units: form.units || null,
          ec_scale: form.reads || null,
          lifts_kg: form.lifts,
          feed: form.feed,
          ...(person?.away ? { away: person.away } : {}),
        }
      : { card: 'meter', name: form.name, scale: form.scale as Schemas['EcScale'], compensated: form.compensated }
  const card = props.card ? await edit(props.card, body) : await create(props.place, body)
  if (card) emit('done')
}
</script>

<template>
  <form class="form" @submit.prevent="send">
    <div class="field">
      <label for="small-name">{{
        what === 'person' ? (form.role === 'child' ? 'Initials' : 'Name') : 'Name of the meter'
      }}</label>
      <input id="small-name" v-model="form.name" required maxlength="80" autocomplete="off" />
      <p class="wrong">{{ fault('name') }}</p>
    </div>
    <div v-if="what === 'person'" class="field">
      <label for="small-role">Is</label>
      <select id="small-role" v-model="form.role">
        <option v-for="r in choices('role')" :key="r.key" :value="r.key">{{ r.name }}</option>
      </select>
    </div>
    <div v-if="what === 'person'" class="fields">
      <div class="field">
        <label for="small-units">Reads</label>
        <select id="small-units" v-model="form.units">
          <option value="">the place’s units</option>
          <option v-for="u in choices('unit_system')" :key="u.key" :value="u.key">{{ u.name }}</option>
        </select>
      </div>
      <div class="field">
        <label for="small-reads">EC in</label>
        <select id="small-reads" v-model="form.reads">
          <option value="">the meter’s scale</option>
          <option v-for="e in choices('ec_scale')" :key="e.key" :value="e.key">{{ e.name }}</option>
        </select>
      </div>
    </div>
    <NumberField
      v-if="what === 'person' && form.role !== 'child'"
      v-model="lifts"
      label="Carries at most"
      :unit="units.weight"
      :hint="`Left empty: ${Math.round(units.toWeight(20))} ${units.weight}. No can is filled beyond it.`"
      :wrong="fault('lifts_kg')"
    />
    <template v-if="what === 'meter'">
      <MeterScale v-model="form.scale" />
      <label class="tick"
        ><input v-model="form.compensated" type="checkbox" /> It corrects for temperature by itself</label
      >
    </template>
    <div v-if="what === 'person' && card" class="feed">
      <p class="label">Their calendar</p>
      <template v-if="form.feed">
        <p class="small quiet">
          Subscribe to this address in any calendar program: what is due here stands in it, and moves with what is done.
          Whoever has it can read it.
        </p>
        <label class="hidden" for="feed">Address of the calendar</label>
        <input id="feed" readonly :value="address" @focus="($event.target as HTMLInputElement).select()" />
        <p v-if="form.feed !== person?.feed" class="small">It works once you have saved.</p>
        <button class="button plain" type="button" @click="form.feed = null">End this address</button>
      </template>
      <template v-else>
        <p v-if="person?.feed" class="small">The address ends when you save.</p>
        <button class="button" type="button" @click="form.feed = newSecret()">Make a calendar address</button>
      </template>
    </div>
    <FailNote :failed="failed" :current="current" :yours="yours" />
    <button class="button main" type="submit" :disabled="busy">{{ card ? 'Save' : 'Add' }}</button>
  </form>
</template>

<style scoped>
.form,
.feed {
  display: grid;
  gap: 14px;
}
.feed {
  gap: 8px;
  justify-items: start;
}
.feed input {
  width: 100%;
}
</style>
