<script setup lang="ts">
/** The ways of caring for the water in which growers differ. */
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { useShelf } from '../api/queries'
import { METHODS } from '../bench/purposes'
import NumberField from '../parts/NumberField.vue'

const props = defineProps<{ traits: Schemas['Traits']; wrong: (path: string) => string | undefined }>()
const methods = defineModel<Schemas['Methods'] | undefined>({ required: true })
const shelf = useShelf()
const set = (changes: Partial<Schemas['Methods']>) => (methods.value = { ...methods.value, ...changes })
const number = (key: 'source_ph' | 'alkalinity') =>
  computed<number | null>({ get: () => methods.value?.[key] ?? null, set: (value) => set({ [key]: value }) })
const sourcePh = number('source_ph')
const alkalinity = number('alkalinity')
const topOffs = computed(() => METHODS.filter(([key]) => key !== 'reservoir' || props.traits.top_off_reservoir))
const PH: [Schemas['PhMethod'], string][] = [
  ['separate_batch', 'Into a separate jug first'],
  ['reservoir', 'Straight into the reservoir, in small steps'],
  ['at_change', 'Only into the fresh batch of a change'],
  ['recipe_only', 'Not at all: the recipe carries it'],
]
const SOURCES: [Schemas['SourceWater'], string][] = [
  ['tap', 'Tap, as it comes'],
  ['conditioned', 'Tap with a dechlorinator'],
  ['stood', 'Tap, stood for a day'],
  ['rain', 'Rain'],
  ['filtered', 'Filtered'],
]
const value = (event: Event) => (event.target as HTMLSelectElement).value
</script>

<template>
  <div class="fields">
    <div class="field">
      <label for="m-recipe">Fed by the recipe</label>
      <select id="m-recipe" :value="methods?.recipe ?? ''" @change="set({ recipe: value($event) || null })">
        <option value="">The usual one for what grows</option>
        <option v-for="r in shelf.data.value?.recipes ?? []" :key="r.id" :value="r.id">{{ r.recipe.name }}</option>
      </select>
      <p class="wrong">{{ wrong('methods.recipe') }}</p>
    </div>
    <div class="field">
      <label for="m-top">Topped off with</label>
      <select
        id="m-top"
        :value="methods?.top_off ?? 'plain'"
        @change="set({ top_off: value($event) as Schemas['TopOffMethod'] })"
      >
        <option v-for="[key, name] in topOffs" :key="key" :value="key">{{ name }}</option>
      </select>
      <p class="wrong">{{ wrong('methods.top_off') }}</p>
    </div>
    <div class="field">
      <label for="m-ph">pH is dosed</label>
      <select
        id="m-ph"
        :value="methods?.ph ?? 'separate_batch'"
        @change="set({ ph: value($event) as Schemas['PhMethod'] })"
      >
        <option v-for="[key, name] in PH" :key="key" :value="key" :disabled="key === 'reservoir' && !traits.circulates">
          {{ name }}
        </option>
      </select>
      <p class="wrong">{{ wrong('methods.ph') }}</p>
    </div>
    <div class="field">
      <label for="m-source">Filled from</label>
      <select
        id="m-source"
        :value="methods?.source ?? 'tap'"
        @change="set({ source: value($event) as Schemas['SourceWater'] })"
      >
        <option v-for="[key, name] in SOURCES" :key="key" :value="key">{{ name }}</option>
      </select>
    </div>
    <NumberField v-model="sourcePh" label="pH of that water" :wrong="wrong('methods.source_ph')" />
    <NumberField
      v-model="alkalinity"
      label="Its alkalinity"
      unit="mg/L"
      :wrong="wrong('methods.alkalinity')"
      hint="As CaCO₃, off the water report"
    />
  </div>
</template>
