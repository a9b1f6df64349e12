<script setup lang="ts">
/** A system: kind from the drawn ones, its vessel, how it is cared for; everything else has a default. */
import { computed, reactive, ref, watch } from 'vue'
import type { CardView, Schemas, Section } from '../api/client'
import { useKnowledge } from '../api/queries'
import { useUnits } from '../api/units'
import TankDrawing from '../drawing/TankDrawing.vue'
import NumberField from '../parts/NumberField.vue'
import FailNote from './FailNote.vue'
import HoldsField from './HoldsField.vue'
import MethodsForm from './MethodsForm.vue'
import ReservoirForm from './ReservoirForm.vue'
import { useCard } from './cards'

const props = defineProps<{ place: CardView; meters: CardView[]; card?: CardView }>()
const emit = defineEmits<{ done: [id: string] }>()
const { create, edit, fault, holdsFault, failed, current, yours, busy } = useCard()
const { data: knowledge } = useKnowledge()
const units = useUnits(computed(() => (props.place.body.card === 'place' ? props.place.body.units : 'metric')))
const body = props.card?.body.card === 'system' ? props.card.body : null
const today = new Date().toLocaleDateString('sv')
const form = reactive<Omit<Schemas['System'], 'reservoir' | 'kind'>>({
  name: body?.name ?? '',
  traits: { ...body?.traits },
  ports: body?.ports ?? 4,
  measuring: body?.measuring ?? (props.meters.length ? 'meter' : 'recipe_only'),
  meter: body?.meter ?? props.meters[0]?.id ?? null,
  refill: body?.refill ?? 'no_limit',
  change_days: body?.change_days ?? 14,
  source_ec: body?.source_ec ?? 0.3,
  methods: { ...body?.methods },
  intervals: { ...body?.intervals },
  since: body?.since ?? today,
  note: body?.note ?? null,
})
const kind = ref<Schemas['Kind'] | null>(body?.kind ?? null)
const reservoir = ref<Schemas['Reservoir'] | null>(body?.reservoir ?? null)
const missing = ref('')
const vessel = ref<InstanceType<typeof ReservoirForm>>()
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
  form.refill = facts.refill ?? 'no_limit'
}
const TRAITS: [keyof Schemas['Traits'], string][] = [
  ['circulates', 'A pump moves the water'],
  ['aerated', 'Air pump and stone'],
  ['sprayers', 'Sprayers or drippers'],
  ['mesh_filters', 'Mesh filters'],
  ['top_off_reservoir', 'Float valve with a top-off reservoir'],
  ['controller', 'Controller with probes'],
  ['light', 'Grow light on a timer'],
  ['opaque', 'No light reaches the water'],
]
const still = computed(() => !form.traits.circulates && !form.traits.aerated)
watch(
  still,
  (now) =>
    (form.refill = now
      ? form.refill === 'no_limit'
        ? 'one_inch'
        : form.refill
      : form.refill === 'one_inch'
        ? 'no_limit'
        : form.refill),
)
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
const source = computed<number | null>({ get: () => form.source_ec ?? null, set: (v) => (form.source_ec = v ?? 0.3) })
const sourceMoved = computed(() => !!body && (form.methods?.source ?? 'tap') !== (body.methods?.source ?? 'tap'))
const checks = computed(() => knowledge.value?.checks.filter((c) => c.key !== 'change') ?? [])
const own = (key: Schemas['Check']) => form.intervals?.[key] ?? null
const setOwn = (key: Schemas['Check'], value: number | null) => {
  const next = { ...form.intervals }
  if (value === null) delete next[key]
  else next[key] = Math.round(value)
  form.intervals = next
}

const holds = ref<Schemas['Holds'] | null>(null)

async function send() {
  await vessel.value?.settle()
  missing.value = !kind.value
    ? 'Choose the kind of system first.'
    : !reservoir.value
      ? 'Say how much the vessel holds.'
      : ''
  if (missing.value || !kind.value || !reservoir.value) return
  const meter = form.measuring === 'meter' ? form.meter : null
  const system = { card: 'system' as const, ...form, meter, kind: kind.value, reservoir: reservoir.value }
  const card = props.card ? await edit(props.card, system, holds.value) : await create(props.place.id, system)
  if (card) emit('done', card.id)
}
</script>

<template>
  <form class="form" @submit.prevent="send">
    <div role="radiogroup" aria-label="Kind of system" class="kinds">
      <button
        v-for="facts in knowledge?.kinds ?? []"
        :key="facts.key"
        class="kind"
        type="button"
        role="radio"
        :aria-checked="kind === facts.key"
        @click="choose(facts)"
      >
        <TankDrawing :section="drawn(facts)" :label="`${facts.name} in section`" />
        <strong>{{ facts.name }}</strong>
        <span class="small quiet">{{ facts.plain }}</span>
      </button>
    </div>
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
        <NumberField v-model="ports" label="Planting holes" :wrong="fault('ports')" />
      </div>
      <ReservoirForm ref="vessel" v-model="reservoir" :units="units" :start="body?.reservoir ?? null" :wrong="fault" />
      <div class="fields">
        <div class="field">
          <label for="sys-care">How the water is measured</label>
          <select id="sys-care" v-model="form.measuring">
            <option value="recipe_only">Not at all: by recipe and calendar</option>
            <option value="drop_kit">Drop kit for pH</option>
            <option value="meter">Meter for pH and EC</option>
          </select>
        </div>
        <div v-if="form.measuring === 'meter'" class="field">
          <label for="sys-meter">Which meter</label>
          <select id="sys-meter" v-model="form.meter">
            <option :value="null">Asked at each visit</option>
            <option v-for="m in meters" :key="m.id" :value="m.id">
              {{ m.body.card === 'meter' ? m.body.name : '' }}
            </option>
          </select>
          <p class="wrong">{{ fault('meter') }}</p>
        </div>
      </div>
      <details>
        <summary>What it has, and its methods (prefilled)</summary>
        <div class="more">
          <label v-for="[key, name] in TRAITS" :key="key" class="tick"
            ><input v-model="form.traits[key]" type="checkbox" /> {{ name }}</label
          >
          <div class="fields">
            <NumberField
              v-model="drainBack"
              label="Runs back when the pump stops"
              :unit="units.volume"
              :wrong="fault('traits.drain_back')"
            />
            <NumberField v-model="heel" label="Cannot be drained" :unit="units.volume" :wrong="fault('traits.heel')" />
            <NumberField v-model="days" label="Days between changes" unit="days" :wrong="fault('change_days')" />
            <NumberField v-model="source" label="EC of the source water" unit="mS/cm" :wrong="fault('source_ec')" />
          </div>
          <div class="field">
            <label for="sys-refill">How far a refill may raise the water</label>
            <select id="sys-refill" v-model="form.refill">
              <option v-if="!still" value="no_limit">Up to the working line</option>
              <option value="one_inch">At most 25 mm, seven days apart</option>
              <option value="hold_the_line">Hold the line of the last three days</option>
              <option value="quarter_to_half">From a quarter up to a half</option>
            </select>
            <p class="wrong">{{ fault('refill') }}</p>
          </div>
          <MethodsForm v-model="form.methods" :traits="form.traits" :wrong="fault" />
          <p v-if="sourceMoved" class="wrong">
            Another source under a running crop moves the pH: change over in two or three top-offs, and measure after
            each.
          </p>
          <div class="field">
            <label for="sys-since">Running since</label>
            <input id="sys-since" v-model="form.since" type="date" />
            <p class="wrong">{{ fault('since') }}</p>
          </div>
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
        <div class="fields">
          <NumberField
            v-for="c in checks"
            :key="c.key"
            :model-value="own(c.key)"
            :label="c.name"
            unit="days"
            :hint="`Usually ${c.days}`"
            :wrong="fault(`intervals.${c.key}`)"
            @update:model-value="setOwn(c.key, $event)"
          />
        </div>
      </details>
      <p v-if="missing" class="wrong" role="alert">{{ missing }}</p>
      <HoldsField v-if="card" v-model="holds" :began="body?.since ?? today" :wrong="holdsFault" />
      <FailNote :failed="failed" :current="current" :yours="yours" />
      <button class="button main" type="submit" :disabled="busy">{{ card ? 'Keep' : 'Set up the system' }}</button>
    </template>
  </form>
</template>

<style scoped>
.form,
.more {
  display: grid;
  gap: 16px;
}
.kinds {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 12px;
}
.kind {
  display: grid;
  gap: 2px;
  align-content: start;
  padding: 8px 10px 10px;
  border: 1.5px solid var(--line);
  border-radius: 4px;
  background: var(--sheet);
  text-align: left;
  cursor: pointer;
  line-height: 1.3;
}
.kind[aria-checked='true'] {
  border-color: var(--water);
  box-shadow: inset 0 0 0 2px var(--water);
  background: var(--water-wash);
}
</style>
