<script setup lang="ts">
/** What grows in which ports. A shipped crop fills in how it feeds; any other is typed with its group. */
import { computed, reactive, ref, watch } from 'vue'
import { api, ask, nowThere, type CardView, type Schemas } from '../api/client'
import { useChoices, useKnowledge } from '../api/queries'
import { scaleName, useScale } from '../api/units'
import CropField from '../controls/CropField.vue'
import DayField from '../controls/DayField.vue'
import BandField from './BandField.vue'
import FailNote from './FailNote.vue'
import KeptNote from './KeptNote.vue'
import HoldsField from './HoldsField.vue'
import CarriesNote from '../system/CarriesNote.vue'
import { useAsked } from '../writes/asked'
import { useKept } from '../parts/kept'
import { clockAt } from '../parts/placeTime'
import { useCard } from './cards'
import { portsOf, sayPorts, takenBy } from './ports'

const props = defineProps<{
  system: CardView
  card?: CardView
  /** What else grows here. */ others: CardView[]
  zone: string
  scale: Schemas['EcScale']
}>()
const emit = defineEmits<{ done: []; again: [] }>()
const { create, edit, fault, holdsFault, failed, current, yours, busy } = useCard()
const { data: knowledge } = useKnowledge()
type Body = Extract<CardView['body'], { card: 'planting' }>
const kept = useKept<Body>(props.card ? null : `planting.${props.system.id}`)
const body = props.card?.body.card === 'planting' ? props.card.body : kept.before
const ports = props.system.body.card === 'system' ? props.system.body.ports : 1
const taken = computed(() => takenBy(props.others, props.card?.id))
const free = Array.from({ length: ports }, (_, n) => n + 1).filter((port) => !taken.value.has(port))
/** In a tower many crops stand side by side: which ports is always said. */
const mixed = props.system.body.card === 'system' && props.system.body.kind === 'tower'
const form = reactive<Schemas['Planting']>({
  crop: body?.crop ?? '',
  group: body?.group ?? 'leafy',
  ports: body?.ports ?? (mixed && ports > 1 ? '' : sayPorts(free)),
  stage: body?.stage ?? 'seedling',
  sown_on: body?.sown_on ?? null,
  planted_on: body?.planted_on ?? clockAt(props.zone, nowThere()).day,
  came: body?.came ?? null,
  ec_band: body?.ec_band ?? null,
  ph_band: body?.ph_band ?? null,
  note: body?.note ?? null,
})
const known = computed(() =>
  knowledge.value?.crops.find((c) => c.name.toLowerCase() === form.crop.trim().toLowerCase()),
)
watch(known, (crop) => crop && (form.group = crop.group))
const choices = useChoices()
const crops = computed(() => (knowledge.value?.crops ?? []).map((crop) => crop.name))
const planted = computed({ get: () => form.planted_on, set: (day) => day && (form.planted_on = day) })
const holds = ref<Schemas['Holds'] | null>(null)
const { onScale, offScale } = useScale(() => props.scale)
const twice = computed(() => [...portsOf(form.ports)].filter((port) => taken.value.has(port)))
/** Whether the vessel carries it, as soon as enough of it is typed to say. */
const { answer: judged } = useAsked(
  'carries',
  () =>
    form.crop.trim() && form.ports.trim() && form.planted_on
      ? {
          planting: { ...form, crop: form.crop.trim(), sown_on: form.sown_on || null },
          ...(props.card ? { instead_of: props.card.id } : {}),
        }
      : null,
  (body, signal) =>
    ask(api.POST('/api/systems/{id}/carries', { params: { path: { id: props.system.id } }, body, signal })),
  300,
)
const carries = computed(() => judged.value?.carries)
/** What is in these ports already. */
const there = computed(() => [...new Set(twice.value.map((port) => taken.value.get(port)))])
const allTheSame = ref(false)
const overlaps = ref(false)
async function send() {
  overlaps.value = twice.value.length > 0 && !allTheSame.value
  if (overlaps.value) return
  const planting = { card: 'planting' as const, ...form, sown_on: form.sown_on || null }
  const card = props.card ? await edit(props.card, planting, holds.value) : await create(props.system.id, planting)
  if (card) {
    kept.forget()
    emit('done')
  }
}
function startOver() {
  kept.forget()
  emit('again')
}
kept.keep(() => ({ card: 'planting', ...form }))
</script>

<template>
  <form class="form" @submit.prevent="send">
    <KeptNote v-if="kept.before" @drop="startOver" />
    <div class="fields">
      <CropField v-model="form.crop" label="Crop" :known="crops" :wrong="fault('crop')" />
      <div class="field">
        <label for="group">Feeds like</label>
        <select id="group" v-model="form.group" :disabled="!!known">
          <option v-for="g in choices('crop_group')" :key="g.key" :value="g.key">{{ g.name }}</option>
        </select>
      </div>
      <div class="field">
        <label for="ports">In ports (of 1-{{ ports }})</label>
        <input id="ports" v-model="form.ports" required autocomplete="off" />
        <p v-if="fault('ports')" class="wrong">{{ fault('ports') }}</p>
        <p v-else-if="!card && ports > 1 && free.length" class="small quiet">Free: {{ sayPorts(free) }}</p>
      </div>
      <div class="field">
        <label for="stage">Stage</label>
        <select id="stage" v-model="form.stage">
          <option v-for="s in choices('stage')" :key="s.key" :value="s.key">{{ s.name }}</option>
        </select>
      </div>
      <DayField v-model="planted" label="Planted on" wanted :wrong="fault('planted_on')" />
      <DayField v-model="form.sown_on" label="Sown, if known" :wrong="fault('sown_on')" />
    </div>
    <div v-if="twice.length" class="twice" :role="overlaps ? 'alert' : undefined">
      <p>
        {{ there.join(' and ') }} {{ there.length === 1 ? 'is' : 'are' }} already in
        {{ twice.length === 1 ? 'port' : 'ports' }} {{ sayPorts(twice) }}.
      </p>
      <label class="tick"><input v-model="allTheSame" type="checkbox" /> Plant it beside that</label>
    </div>
    <details v-if="form.stage === 'germinating'" :open="!card" class="sow">
      <summary>How to sow</summary>
      <ol>
        <li v-for="step in choices('sowing')" :key="step.key">{{ step.name }}</li>
      </ol>
    </details>
    <p v-if="judged?.up_by" class="small">{{ judged.up_by }}</p>
    <CarriesNote v-if="carries" :carries="carries" />
    <details :open="!!(form.ec_band || form.ph_band)">
      <summary>What it wants, where that is not the crop’s</summary>
      <div class="fields">
        <BandField
          v-model="form.ec_band"
          label="EC"
          path="ec_band"
          :unit="scaleName(scale)"
          :shown="onScale"
          :kept="offScale"
          :wrong="fault"
        />
        <BandField v-model="form.ph_band" label="pH" path="ph_band" :wrong="fault" />
      </div>
    </details>
    <HoldsField v-if="card" v-model="holds" :began="form.planted_on" :wrong="holdsFault" />
    <FailNote :failed="failed" :current="current" :yours="yours" />
    <button class="button main" type="submit" :disabled="busy">{{ card ? 'Save' : 'Plant it' }}</button>
  </form>
</template>

<style scoped>
.sow ol {
  list-style: decimal;
  padding: 6px 0 6px 24px;
  max-width: 640px;
}
.twice {
  padding: 8px 14px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
.form {
  display: grid;
  gap: 12px;
}
</style>
