<script setup lang="ts">
/** The ways of caring for the water in which growers differ. */
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { useChoices, useShelf } from '../api/queries'
import PickList from '../controls/PickList.vue'
import NumberField from '../parts/NumberField.vue'

const props = defineProps<{ traits: Schemas['Traits']; wrong: (path: string) => string | undefined }>()
const methods = defineModel<Schemas['Methods'] | undefined>({ required: true })
const shelf = useShelf()
const set = (changes: Partial<Schemas['Methods']>) => (methods.value = { ...methods.value, ...changes })
const number = (key: 'source_ph' | 'alkalinity') =>
  computed<number | null>({ get: () => methods.value?.[key] ?? null, set: (value) => set({ [key]: value }) })
const sourcePh = number('source_ph')
const alkalinity = number('alkalinity')
const choices = useChoices()
const topOffs = computed(() =>
  choices<Schemas['TopOffMethod']>('top_off_method').filter(
    ({ key }) =>
      (key !== 'reservoir' || props.traits.top_off_reservoir) &&
      // Fed to waste, the plants get what is in the vessel.
      !(props.traits.to_waste && (key === 'plain' || key === 'light_feed')),
  ),
)
const recipe = computed({ get: () => methods.value?.recipe, set: (id) => set({ recipe: id ?? null }) })
const recipes = computed(() => (shelf.data.value?.recipes ?? []).map((r) => ({ key: r.id, name: r.recipe.name })))
const value = (event: Event) => (event.target as HTMLSelectElement).value
</script>

<template>
  <div class="fields wide">
    <PickList
      v-model="recipe"
      label="Fed by the recipe"
      :choices="recipes"
      none="The usual one for what grows"
      :wrong="wrong('methods.recipe')"
    />
    <div class="field">
      <label for="m-top">Topped off with</label>
      <select
        id="m-top"
        :value="methods?.top_off ?? 'plain'"
        @change="set({ top_off: value($event) as Schemas['TopOffMethod'] })"
      >
        <option v-for="m in topOffs" :key="m.key" :value="m.key">{{ m.name }}</option>
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
        <option
          v-for="m in choices('ph_method')"
          :key="m.key"
          :value="m.key"
          :disabled="(m.key === 'reservoir' && !traits.circulates) || (m.key === 'drum' && !traits.top_off_reservoir)"
        >
          {{ m.name }}
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
        <option v-for="w in choices('source_water')" :key="w.key" :value="w.key">{{ w.name }}</option>
      </select>
    </div>
    <div class="field">
      <label for="m-rot">Against root rot</label>
      <select
        id="m-rot"
        :value="methods?.root_rot ?? 'treat'"
        @change="set({ root_rot: value($event) as Schemas['RootRotMethod'] })"
      >
        <option v-for="m in choices('root_rot_method')" :key="m.key" :value="m.key">{{ m.name }}</option>
      </select>
    </div>
    <div class="field">
      <label for="m-ripe">Fed while it ripens</label>
      <select
        id="m-ripe"
        :value="methods?.ripening ?? 'taper'"
        @change="set({ ripening: value($event) as Schemas['Ripening'] })"
      >
        <option v-for="m in choices('ripening')" :key="m.key" :value="m.key">{{ m.name }}</option>
      </select>
    </div>
    <div class="field">
      <label for="m-change">Changes of the water</label>
      <select
        id="m-change"
        :value="methods?.change ?? 'days'"
        @change="set({ change: value($event) as Schemas['ChangeMethod'] })"
      >
        <option v-for="m in choices('change_method')" :key="m.key" :value="m.key">{{ m.name }}</option>
      </select>
    </div>
    <div v-if="traits.light" class="field">
      <label for="m-lamp">Lamp over it</label>
      <select id="m-lamp" :value="methods?.lamp ?? 'strip'" @change="set({ lamp: value($event) as Schemas['Lamp'] })">
        <option v-for="m in choices('lamp')" :key="m.key" :value="m.key">{{ m.name }}</option>
      </select>
    </div>
    <div v-if="traits.light" class="field">
      <label for="m-flowers">Light on what flowers</label>
      <select
        id="m-flowers"
        :value="methods?.flower_light ?? 'long'"
        @change="set({ flower_light: value($event) as Schemas['FlowerLight'] })"
      >
        <option v-for="m in choices('flower_light')" :key="m.key" :value="m.key">{{ m.name }}</option>
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

<style scoped>
.wide {
  grid-template-columns: repeat(auto-fit, minmax(min(240px, 100%), 1fr));
}
</style>
