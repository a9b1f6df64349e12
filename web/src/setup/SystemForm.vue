<script setup lang="ts">
/** A system: kind from the drawn ones, its vessel, how it is cared for; everything else has a default. */
import { computed, reactive, ref } from 'vue'
import { newId, nowThere, type CardView, type Schemas, type Section } from '../api/client'
import { useChoices, useKnowledge } from '../api/queries'
import { readsEc, scaleName, useScale, useUnits } from '../api/units'
import TankDrawing from '../drawing/TankDrawing.vue'
import DayField from '../controls/DayField.vue'
import RadioChips from '../controls/RadioChips.vue'
import NumberField from '../parts/NumberField.vue'
import { useKept } from '../parts/kept'
import { clockAt } from '../parts/placeTime'
import FailNote from './FailNote.vue'
import FeedingForm from './FeedingForm.vue'
import MeterScale from './MeterScale.vue'
import KeptNote from './KeptNote.vue'
import HoldsField from './HoldsField.vue'
import BandField from './BandField.vue'
import DrumForm from './DrumForm.vue'
import MethodsForm from './MethodsForm.vue'
import OwnDays from './OwnDays.vue'
import OwnEquipment from './OwnEquipment.vue'
import OwnRules from './OwnRules.vue'
import ReservoirForm from './ReservoirForm.vue'
import SharedDrum from './SharedDrum.vue'
import { useCard } from './cards'
import { useFitting } from './fitting'

const props = defineProps<{
  place: CardView
  meters: CardView[]
  card?: CardView
  /** A system that this one begins as a copy of. */
  like?: CardView
}>()
const emit = defineEmits<{ done: [id: string]; again: [] }>()
const { create, edit, fault, holdsFault, failed, current, yours, busy } = useCard()
const { data: knowledge } = useKnowledge()
const units = useUnits(computed(() => (props.place.body.card === 'place' ? props.place.body.units : 'metric')))
type Body = Extract<CardView['body'], { card: 'system' }>
const of = (card: CardView | undefined) => (card?.body.card === 'system' ? card.body : null)
const kept = useKept<Body>(
  props.card ? `system.${props.card.id}.${props.card.version}` : `system.${props.place.id}.${props.like?.id ?? ''}`,
)
const copied = of(props.like)
const body =
  kept.before ?? of(props.card) ?? (copied ? { ...copied, name: `${copied.name} (copy)`, since: null } : null)
const today = clockAt(props.place.body.card === 'place' ? props.place.body.zone : 'UTC', nowThere()).day
const form = reactive<Omit<Schemas['System'], 'reservoir' | 'kind'>>({
  name: body?.name ?? '',
  traits: { ...body?.traits },
  ports: body?.ports ?? 4,
  measuring: body?.measuring ?? (props.meters.length ? 'meter' : 'recipe_only'),
  meter: body?.meter ?? props.meters[0]?.id ?? (props.card ? null : 'new'),
  refill: body?.refill ?? 'no_limit',
  change_days: body?.change_days ?? 14,
  turn: body?.turn ?? null,
  source_ec: body?.source_ec ?? 0.3,
  methods: { ...body?.methods },
  ec_band: body?.ec_band ?? null,
  ph_band: body?.ph_band ?? null,
  intervals: { ...body?.intervals },
  slacks: { ...body?.slacks },
  rules: body?.rules?.map((rule) => ({ ...rule, ...(copied && !props.card ? { id: newId() } : {}) })) ?? [],
  equipment: body?.equipment?.map((one) => ({ ...one, ...(copied && !props.card ? { id: newId() } : {}) })) ?? [],
  drum: body?.drum ?? null,
  drum_of: body?.drum_of ?? null,
  drum_share: body?.drum_share ?? null,
  feeding: body?.feeding ?? null,
  since: body?.since ?? today,
  note: body?.note ?? null,
})
/** A meter that is not set up yet is made along with the system. */
const NEW = 'new'
const newMeter = reactive<{ name: string; scale: Schemas['EcScale'] | '' }>({ name: '', scale: '' })
const meterCard = useCard()
const kind = ref<Schemas['Kind'] | null>(body?.kind ?? null)
const reservoir = ref<Schemas['Reservoir'] | null>(body?.reservoir ?? null)
const missing = ref('')
const vessel = ref<InstanceType<typeof ReservoirForm>>()
const behind = ref<InstanceType<typeof DrumForm>>()
/** What it has of a top-off reservoir that fills several systems. */
const sharing = computed({
  get: () => ({ drum_of: form.drum_of ?? null, drum_share: form.drum_share ?? null }),
  set: (now) => Object.assign(form, now),
})
const timer = ref<InstanceType<typeof FeedingForm>>()
const drawn = (facts: Schemas['KindFacts']): Section => ({
  form: facts.section,
  taper: 0.92,
  water: 0.62,
  computed: false,
  minimum: 0.3,
  working: 0.8,
  roots: 0,
  outlets: 6,
  planted: 1,
  bubbles: facts.traits.aerated ?? false,
})
function choose(facts: Schemas['KindFacts']) {
  kind.value = facts.key
  form.traits = { ...facts.traits }
  form.ports = facts.ports
  form.change_days = facts.change_days
  form.refill = facts.refill ?? knowledge.value?.usual_refill.moved ?? 'no_limit'
  form.methods = { ...form.methods, top_off: facts.top_off ?? 'plain' }
}
type Trait = Exclude<keyof Schemas['Traits'], 'drain_back' | 'heel'>
const choices = useChoices()
const kinds = computed(() =>
  (knowledge.value?.kinds ?? []).map((facts) => ({ key: facts.key, name: facts.name, facts })),
)
const chosen = computed({
  get: () => kind.value,
  set: (key) => {
    const facts = knowledge.value?.kinds.find((one) => one.key === key)
    if (facts) choose(facts)
  },
})
const { refills } = useFitting(form, knowledge)
const litres = (key: 'drain_back' | 'heel') =>
  computed<number | null>({
    get: () => units.value.toVolume(form.traits[key] ?? 0),
    set: (value) => (form.traits[key] = units.value.fromVolume(value ?? 0)),
  })
const drainBack = litres('drain_back')
const heel = litres('heel')
const whole = (key: 'ports' | 'change_days') =>
  computed<number | null>({ get: () => form[key], set: (v) => (form[key] = Math.round(v ?? 0)) })
const ports = whole('ports')
const days = whole('change_days')
const turn = computed({
  get: () => form.turn ?? null,
  set: (value: number | null) => (form.turn = value === null ? null : Math.round(value)),
})
/** EC is typed and shown on the scale of the meter that is used here. */
const scale = computed(() => {
  const meter = props.meters.find((one) => one.id === form.meter)?.body
  if (!readsEc(form.measuring)) return 'ms_cm'
  if (form.meter === NEW) return newMeter.scale || 'ms_cm'
  return meter?.card === 'meter' ? meter.scale : 'ms_cm'
})
const { onScale, offScale } = useScale(() => scale.value)
const source = computed<number | null>({
  get: () => (form.source_ec == null ? null : onScale(form.source_ec)),
  set: (v) => (form.source_ec = v === null ? 0.3 : offScale(v)),
})
const sourceMoved = computed(
  () => !!props.card && (form.methods?.source ?? 'tap') !== (of(props.card)?.methods?.source ?? 'tap'),
)
/** Only those that a system with these parts has. */
const MEANS: Partial<Record<Schemas['Need'], Trait>> = {
  aerated: 'aerated',
  mesh_filters: 'mesh_filters',
  sprayers: 'sprayers',
  light: 'light',
  to_waste: 'to_waste',
}
const checks = computed(
  () =>
    knowledge.value?.checks.filter((c) => {
      const part = c.needs && MEANS[c.needs]
      return c.key !== 'change' && (!part || form.traits[part])
    }) ?? [],
)
const since = computed({ get: () => form.since, set: (day) => day && (form.since = day) })
const holds = ref<Schemas['Holds'] | null>(null)

async function send() {
  missing.value = ''
  if (!kind.value) return (missing.value = 'Choose the kind of system first.')
  const settled = await vessel.value!.settle()
  if ('why' in settled) return (missing.value = settled.why)
  const sized = await behind.value?.settle()
  if (sized && 'why' in sized) return (missing.value = sized.why)
  if (timer.value?.half) return (missing.value = 'Say how often a day it feeds and how much each time, or neither.')
  let meter = readsEc(form.measuring) ? form.meter : null
  if (meter === NEW) {
    const { name, scale } = newMeter
    if (!scale) return (missing.value = 'Say what the EC figures of the meter stand for.')
    const made = await meterCard.create(props.place.id, { card: 'meter', name, scale, compensated: true })
    if (!made) return (missing.value = meterCard.failed.value)
    meter = form.meter = made.id
  }
  const valve = form.traits.top_off_reservoir
  const drum = valve && !form.drum_of ? (sized ? sized.drum : form.drum) : null
  const shared = valve ? {} : { drum_of: null, drum_share: null }
  const feeding = form.traits.to_waste ? form.feeding : null
  const system = {
    card: 'system' as const,
    ...form,
    ...shared,
    drum,
    feeding,
    meter,
    kind: kind.value,
    reservoir: settled.vessel,
  }
  const card = props.card ? await edit(props.card, system, holds.value) : await create(props.place.id, system)
  if (card) {
    kept.forget()
    emit('done', card.id)
  }
}
function startOver() {
  kept.forget()
  emit('again')
}
kept.keep(() => ({ card: 'system', ...form, kind: kind.value!, reservoir: reservoir.value! }))
</script>

<template>
  <form class="form" @submit.prevent="send">
    <KeptNote v-if="kept.before" @drop="startOver" />
    <RadioChips v-slot="{ choice }" v-model="chosen" label="Kind of system" :choices="kinds" shape="card">
      <TankDrawing :section="drawn(choice.facts)" :label="`${choice.name} in section`" />
      <strong>{{ choice.name }}</strong>
      <span class="small quiet">{{ choice.facts.plain }}</span>
    </RadioChips>
    <template v-if="kind">
      <div class="fields">
        <div class="field">
          <label for="sys-name">Name of the system</label>
          <input
            id="sys-name"
            v-model="form.name"
            required
            maxlength="80"
            autocomplete="off"
            :aria-invalid="!!fault('name')"
          />
          <p class="wrong">{{ fault('name') }}</p>
        </div>
        <NumberField v-model="ports" label="Ports (the holes that plants stand in)" :wrong="fault('ports')" />
      </div>
      <ReservoirForm
        ref="vessel"
        v-model="reservoir"
        :units="units"
        :start="body?.reservoir ?? null"
        :chain="kind === 'bucket_chain'"
        :runs-home="form.traits.drain_back ?? 0"
        :wrong="fault"
      />
      <FeedingForm v-if="form.traits.to_waste" ref="timer" v-model="form.feeding" :units="units" :wrong="fault" />
      <div class="fields">
        <div class="field">
          <label for="sys-care">How the water is measured</label>
          <select id="sys-care" v-model="form.measuring">
            <option v-for="m in choices('measuring')" :key="m.key" :value="m.key">{{ m.name }}</option>
          </select>
        </div>
        <div v-if="readsEc(form.measuring)" class="field">
          <label for="sys-meter">Which meter</label>
          <select id="sys-meter" v-model="form.meter">
            <option :value="null">Asked at each visit</option>
            <option v-for="m in meters" :key="m.id" :value="m.id">
              {{ m.body.card === 'meter' ? m.body.name : '' }}
            </option>
            <option :value="NEW">A meter that is not set up yet</option>
          </select>
          <p class="wrong">{{ fault('meter') }}</p>
        </div>
        <template v-if="readsEc(form.measuring) && form.meter === NEW">
          <div class="field">
            <label for="sys-meter-name">Name of the meter</label>
            <input id="sys-meter-name" v-model="newMeter.name" required maxlength="80" autocomplete="off" />
            <p class="wrong">{{ meterCard.fault('name') }}</p>
          </div>
          <MeterScale v-model="newMeter.scale" />
        </template>
      </div>
      <details>
        <summary>What it has, and its methods (prefilled)</summary>
        <div class="more">
          <div class="traits">
            <label v-for="t in choices<Trait>('trait')" :key="t.key" class="tick"
              ><input v-model="form.traits[t.key]" type="checkbox" /> {{ t.name }}</label
            >
          </div>
          <SharedDrum
            v-if="form.traits.top_off_reservoir"
            v-model="sharing"
            :place="place.id"
            :system="card?.id"
            :wrong="fault"
          />
          <DrumForm
            v-if="form.traits.top_off_reservoir && !form.drum_of"
            ref="behind"
            :start="form.drum ?? null"
            :units="units"
            :wrong="fault"
          />
          <div class="fields">
            <NumberField
              v-model="drainBack"
              label="Runs back when the pump stops"
              :unit="units.volume"
              :wrong="fault('traits.drain_back')"
            />
            <NumberField
              v-model="heel"
              label="Old water that cannot be drained"
              :unit="units.volume"
              :wrong="fault('traits.heel')"
            />
            <NumberField v-model="days" label="Days between changes" unit="days" :wrong="fault('change_days')" />
            <NumberField
              v-model="turn"
              label="Its turn on the round"
              hint="Left empty: by its margin"
              :wrong="fault('turn')"
            />
            <NumberField
              v-model="source"
              label="EC of the source water"
              :unit="scaleName(scale)"
              :wrong="fault('source_ec')"
            />
          </div>
          <div class="fields">
            <BandField
              :key="scale"
              v-model="form.ec_band"
              label="EC wanted here"
              path="ec_band"
              :unit="scaleName(scale)"
              :shown="onScale"
              :kept="offScale"
              :wrong="fault"
              hint="Left empty: as the crops want it"
            />
            <BandField
              v-model="form.ph_band"
              label="pH wanted here"
              path="ph_band"
              :wrong="fault"
              hint="Left empty: 5.5 to 6.5"
            />
          </div>
          <div class="field">
            <label for="sys-refill">How far a refill may raise the water</label>
            <select id="sys-refill" v-model="form.refill">
              <option v-for="r in refills" :key="r.key" :value="r.key">{{ r.name }}</option>
            </select>
            <p class="wrong">{{ fault('refill') }}</p>
          </div>
          <MethodsForm v-model="form.methods" :traits="form.traits" :wrong="fault" />
          <p v-if="sourceMoved" class="wrong">
            Another source under a running crop moves the pH: change over in two or three top-offs, and measure after
            each.
          </p>
          <DayField v-model="since" label="Running since" :wrong="fault('since')" />
          <div class="field">
            <label for="sys-note">Note</label>
            <input
              id="sys-note"
              :value="form.note ?? ''"
              maxlength="2000"
              @input="form.note = ($event.target as HTMLInputElement).value || null"
            />
          </div>
        </div>
      </details>
      <details>
        <summary>Own intervals, in days</summary>
        <p class="quiet small">Left empty, the usual interval holds; 0 leaves a check out.</p>
        <OwnDays v-model="form.intervals" :checks="checks" path="intervals" :wrong="fault" />
      </details>
      <details>
        <summary>Own slacks: how late a check may be, in days</summary>
        <p class="quiet small">Left empty, the usual slack holds. It moves how soon lateness counts, not the day.</p>
        <OwnDays v-model="form.slacks" :checks="checks" path="slacks" :wrong="fault" />
      </details>
      <details :open="!!form.equipment?.length">
        <summary>Equipment: pumps, stones, lamps, probes</summary>
        <OwnEquipment v-model="form.equipment" :today="today" :wrong="fault" />
      </details>
      <details :open="!!form.rules?.length">
        <summary>Rules of your own</summary>
        <OwnRules v-model="form.rules" :units="units" :wrong="fault" />
      </details>
      <p v-if="missing" class="wrong" role="alert">{{ missing }}</p>
      <HoldsField v-if="card" v-model="holds" :began="body?.since ?? today" :wrong="holdsFault" />
      <FailNote :failed="failed" :current="current" :yours="yours" />
      <button class="button main" type="submit" :disabled="busy">{{ card ? 'Save' : 'Set up the system' }}</button>
    </template>
  </form>
</template>

<style scoped>
.form,
.more {
  display: grid;
  gap: 16px;
}
.traits {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(300px, 100%), 1fr));
}
</style>
