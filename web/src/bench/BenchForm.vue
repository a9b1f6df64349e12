<script setup lang="ts">
/** What for, for which system, how much: only what cannot be worked out is wanted. */
import { computed } from 'vue'
import type { Schemas, SystemView } from '../api/client'
import RadioButton from 'primevue/radiobutton'
import { useBenchFacts, useChoices } from '../api/queries'
import { phByKit, readsEc, scaleName, useKit, type Units } from '../api/units'
import ChoiceChips from '../controls/ChoiceChips.vue'
import PickList from '../controls/PickList.vue'
import TypedText from '../parts/TypedText.vue'
import NumberField from '../parts/NumberField.vue'
import RecorderPick from '../parts/RecorderPick.vue'
import type { Bench } from './useBench'

const props = defineProps<{
  bench: Bench
  places: Schemas['PlaceView'][]
  shelf: Schemas['ShelfView'] | undefined
  view: SystemView | undefined
  units: Units
  scale: Schemas['EcScale']
}>()
type Field = Schemas['FieldView']
const { purposes, usualPeroxide } = useBenchFacts()
const groups = computed(() => [...new Set(purposes().map((one) => one.group))])
const facts = computed(() => props.bench.purpose.value)
const value = (key: string) => props.bench.values.value[key] ?? ''
const scaleSaid = computed(() => scaleName(props.scale))
const unit = (kind: Field['kind']) =>
  ({
    volume: props.units.volume,
    ec: scaleSaid.value,
    ph: '',
    percent: '%',
    number: 'mL',
  })[kind]
const live = computed(() => props.places.filter((p) => !p.card.archived))
const nameOf = (card: Schemas['CardView']) => ('name' in card.body ? card.body.name : '')
const last = (subject: string) => props.view?.last.find((v) => v.subject === subject)
const known = (key: string) => {
  if (!props.view) return undefined
  const said = (subject: string) => {
    const found = last(subject)
    return found && `Left empty: ${found.said}, ${found.when}`
  }
  const stands = ['top_off', 'put_right', 'correction', 'ph', 'peroxide_dose']
  if (['from', 'litres'].includes(key) && stands.includes(facts.value!.key)) return said('level')
  if (key === 'litres' && ['change', 'fresh_fill'].includes(facts.value!.key))
    return `Left empty: ${props.units.toVolume(props.view.system.reservoir.working)} ${props.units.volume}${props.view.section.limit == null ? '' : ', or its refill limit'}`
  if (key === 'litres' && facts.value!.key === 'top_off_reservoir') return 'Left empty: what it takes to be full again'
  if (key === 'to')
    return props.view.room
      ? `Left empty: ${props.units.toVolume(props.view.room.up_to)} ${props.units.volume}`
      : undefined
  if (['ec', 'heel_ec'].includes(key)) return said('ec')
  if (key === 'ph') return said('ph')
  if (key === 'heel')
    return `Left empty: ${props.units.toVolume(props.view.system.traits.heel ?? 0)} ${props.units.volume}`
  return undefined
}
const wanted = (key: string) => props.bench.missing.value.includes(key)
const hint = (field: Field) => (wanted(field.key) ? 'Wanted' : known(field.key))
const choices = useChoices()
const { bands } = useKit()
const band = computed<number | null>({
  get: () => props.bench.number('kit'),
  set: (low) => props.bench.set({ kit: low, ph: null }),
})
const picked = (key: string) =>
  computed<string | null>({
    get: () => props.bench.values.value[key] ?? null,
    set: (now) => props.bench.set({ [key]: now }),
  })
const [system, product, recipe] = [picked('system'), picked('product'), picked('recipe')]
const systems = computed(() =>
  live.value.flatMap((place) =>
    place.systems
      .filter((one) => !one.archived)
      .map((one) => ({ key: one.id, name: nameOf(one), group: nameOf(place.card) })),
  ),
)
const recipes = computed(() => (props.shelf?.recipes ?? []).map((r) => ({ key: r.id, name: r.recipe.name })))
const usualTopOff = computed(() => {
  const usual = props.view?.system.methods?.top_off ?? 'plain'
  const name = choices('top_off_method').find((m) => m.key === usual)?.name ?? ''
  return props.view ? `As set up: ${name.toLowerCase()}` : name
})
const purpose = computed({
  get: () => facts.value?.key ?? null,
  set: (key) => key && props.bench.choose(key as Schemas['Purpose']['for']),
})
const doses = computed(() => ['ph', 'put_right'].includes(facts.value?.key ?? ''))
const kit = computed(() => phByKit(props.view?.system.measuring) || value('kit') !== '')
const products = computed(() => {
  const kinds = facts.value?.key === 'ph' ? ['ph_up', 'ph_down'] : ['peroxide']
  return ['ph', 'peroxide_dose', 'root_bath'].includes(facts.value?.key ?? '')
    ? (props.shelf?.products ?? [])
        .filter((p) => kinds.includes(p.label.what))
        .map((p) => ({ key: p.id, name: p.label.name }))
    : []
})
const pick = (key: string) => (event: Event) => props.bench.set({ [key]: (event.target as HTMLSelectElement).value })
const main = computed(() =>
  (facts.value?.fields ?? []).filter((f) => !f.key.startsWith('jar_') && !(f.key === 'ph' && kit.value)),
)
const jar = computed(() => (facts.value?.fields ?? []).filter((f) => f.key.startsWith('jar_')))
</script>

<template>
  <form class="ask" aria-label="What is to be mixed" @submit.prevent>
    <PickList v-model="system" label="System" :choices="systems" none="None: a plain calculation" />
    <RecorderPick v-if="view" :place="view.place.id" :people="view.people" />
    <div v-else class="fields two">
      <div class="field">
        <label for="bench-units">Units</label>
        <select id="bench-units" :value="value('units') || 'metric'" @change="pick('units')($event)">
          <option v-for="u in choices('unit_system')" :key="u.key" :value="u.key">{{ u.name }}</option>
        </select>
      </div>
      <div class="field">
        <label for="bench-scale">EC in</label>
        <select id="bench-scale" :value="value('scale') || 'ms_cm'" @change="pick('scale')($event)">
          <option v-for="e in choices('ec_scale')" :key="e.key" :value="e.key">{{ e.name }}</option>
        </select>
      </div>
    </div>
    <div role="radiogroup" aria-label="What for" class="purposes">
      <template v-for="group in groups" :key="group">
        <span class="small quiet">{{ group }}</span>
        <span class="row">
          <span v-for="p in purposes().filter((x) => x.group === group)" :key="p.key" class="pick">
            <RadioButton v-model="purpose" name="purpose" :value="p.key" :aria-labelledby="`for-${p.key}`" />
            <span :id="`for-${p.key}`">{{ p.name }}</span>
          </span>
        </span>
      </template>
    </div>
    <template v-if="facts">
      <div v-if="facts.key === 'top_off'" class="field">
        <label for="bench-method">How</label>
        <select id="bench-method" :value="value('method')" @change="pick('method')($event)">
          <option value="">
            {{ usualTopOff }}
          </option>
          <option v-for="m in choices('top_off_method')" :key="m.key" :value="m.key">{{ m.name }}</option>
        </select>
        <p class="wrong">{{ bench.fault('method') }}</p>
      </div>
      <div class="fields">
        <NumberField
          v-for="field in main"
          :key="`${facts.key}.${field.key}`"
          :model-value="bench.number(field.key)"
          :label="field.label"
          :unit="unit(field.kind)"
          :wrong="bench.fault(field.key)"
          :hint="hint(field)"
          @update:model-value="bench.set({ [field.key]: $event, ...(field.key === 'ph' ? { kit: null } : {}) })"
        />
        <NumberField
          v-if="facts.key === 'top_off' && (value('method') || view?.system.methods?.top_off) === 'measured'"
          :model-value="bench.number('batch')"
          label="The jug takes"
          :unit="units.volume"
          :wrong="bench.fault('batch')"
          @update:model-value="bench.set({ batch: $event })"
        />
      </div>
      <div v-if="doses && kit" role="group" aria-label="pH by drop kit" class="field">
        <ChoiceChips v-model="band" label="pH by drop kit: between which two colours?" :choices="bands" />
        <p class="hint">{{ known('ph') }}</p>
        <p class="wrong">{{ bench.fault('ph') }}</p>
      </div>
      <label v-if="facts.key === 'peroxide_dose' && (bench.fault('again') || value('again'))" class="tick"
        ><input
          type="checkbox"
          :checked="value('again') === '1'"
          @change="bench.set({ again: ($event.target as HTMLInputElement).checked ? '1' : null })"
        />
        It is needed again, although the last dose is still at work</label
      >
      <div v-if="facts.key === 'root_bath'" class="field">
        <label for="bench-roots">How far the roots have gone</label>
        <select id="bench-roots" :value="value('root_stage')" @change="pick('root_stage')($event)">
          <option value="">{{ view ? 'As last looked at' : 'Slime, browning begins' }}</option>
          <option v-for="t in choices('root_stage')" :key="t.key" :value="t.key">{{ t.name }}</option>
        </select>
        <p class="wrong">{{ bench.fault('stage') }}</p>
      </div>
      <PickList
        v-if="products.length"
        v-model="product"
        label="With which product"
        :choices="products"
        :none="facts.key === 'ph' ? 'pH up or pH down, as needed' : usualPeroxide()"
        :wrong="bench.fault('product')"
      />
      <template v-if="facts.feeds">
        <div class="fields two">
          <PickList
            v-model="recipe"
            label="Recipe"
            :choices="recipes"
            :none="view?.system.methods?.recipe ? 'The system’s own' : 'The usual one'"
            :wrong="bench.fault('recipe')"
          />
          <div class="field">
            <label for="bench-stage">For plants that are</label>
            <select id="bench-stage" :value="value('stage')" @change="pick('stage')($event)">
              <option value="">{{ view ? 'As they stand' : 'Vegetative' }}</option>
              <option v-for="t in choices('recipe_stage')" :key="t.key" :value="t.key">{{ t.name }}</option>
            </select>
            <p class="wrong">{{ bench.fault('stage') }}</p>
          </div>
        </div>
        <NumberField
          :model-value="bench.number('target')"
          label="EC wanted"
          :unit="scaleSaid"
          :wrong="bench.fault('target')"
          :hint="
            wanted('target')
              ? 'Wanted'
              : view?.ec_target && readsEc(view.system.measuring)
                ? 'Left empty: the middle of the band for what grows here'
                : 'Left empty: the recipe as printed, as far as the crops take it'
          "
          @update:model-value="bench.set({ target: $event })"
        />
        <div v-if="facts.mixes" class="field">
          <label for="bench-mix">Mixed</label>
          <select id="bench-mix" :value="value('mix_in')" @change="pick('mix_in')($event)">
            <option value="">In cans, where all can be carried</option>
            <option v-for="m in choices('mix_in')" :key="m.key" :value="m.key">{{ m.name }}</option>
          </select>
          <p class="wrong">{{ bench.fault('mix_in') }}</p>
        </div>
        <label class="tick"
          ><input
            type="checkbox"
            :checked="value('as_printed') === '1'"
            @change="bench.set({ as_printed: ($event.target as HTMLInputElement).checked ? '1' : null })"
          />
          The recipe as printed, whatever EC it comes to</label
        >
      </template>
      <details :open="!!(value('jar_amount') || value('source_ec') || value('tank_temperature'))">
        <summary>{{ jar.length ? 'Jar test, water and temperatures' : 'Water and temperatures' }}</summary>
        <div class="fields">
          <NumberField
            v-for="field in jar"
            :key="field.key"
            :model-value="bench.number(field.key)"
            :label="field.label"
            :unit="unit(field.kind)"
            :wrong="bench.fault('jar')"
            @update:model-value="bench.set({ [field.key]: $event })"
          />
          <NumberField
            v-for="[key, label, kind] in [
              ['source_ec', 'EC of the fresh water', 'ec'],
              ['tank_temperature', 'Tank', 'temperature'],
              ['water_temperature', 'Fresh water', 'temperature'],
            ] as [string, string, Field['kind']][]"
            :key="key"
            :model-value="bench.number(key)"
            :label="label"
            :unit="unit(kind)"
            :wrong="bench.fault(key)"
            @update:model-value="bench.set({ [key]: $event })"
          />
        </div>
      </details>
      <details :open="!!(value('cans') || value('holds'))">
        <summary>Cans and measures at hand</summary>
        <p class="small quiet">
          {{ view ? 'Left empty, those of the place are used.' : 'Left empty, a usual set is used.' }}
        </p>
        <div class="field">
          <label for="bench-cans">Cans, in {{ units.volume }}</label>
          <TypedText
            id="bench-cans"
            :model-value="value('cans')"
            inputmode="text"
            placeholder="18 18 10"
            @update:model-value="bench.set({ cans: $event ?? '' })"
          />
          <p class="wrong">{{ bench.fault('containers') }}</p>
        </div>
        <div class="fields two">
          <NumberField
            :model-value="bench.number('holds')"
            label="Syringe or cylinder"
            unit="mL"
            :wrong="bench.fault('tools.0')"
            @update:model-value="bench.set({ holds: $event })"
          />
          <NumberField
            :model-value="bench.number('marked')"
            label="Marked each"
            unit="mL"
            @update:model-value="bench.set({ marked: $event })"
          />
        </div>
      </details>
    </template>
  </form>
</template>

<style scoped>
.ask {
  display: grid;
  gap: 16px;
}
.two {
  grid-template-columns: 1fr 1fr;
}
.purposes {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 4px 12px;
  align-items: center;
}
.row {
  display: flex;
  flex-wrap: wrap;
}
.row .pick {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
  padding: 0 12px;
  border-bottom: 3px solid var(--line);
  font-weight: 600;
}
.row .pick:has(:checked) {
  border-bottom-color: var(--water);
  background: var(--water-wash);
  color: var(--water-deep);
}
</style>
