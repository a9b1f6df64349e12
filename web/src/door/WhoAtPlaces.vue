<script setup lang="ts">
/** Whom an account is, at each place: one person, or nobody. */
import { computed } from 'vue'
import { roleOf } from './roles'

export interface Somebody {
  person: string
  name: string
  role: string
  place: string
  place_name: string
}
/** The ids of people, one for each place at most. */
const chosen = defineModel<string[]>({ required: true })
const props = defineProps<{ people: Somebody[]; says: string; name: string }>()
const places = computed(() =>
  [...new Map(props.people.map((one) => [one.place, one.place_name])).entries()].sort((a, b) =>
    a[1].localeCompare(b[1]),
  ),
)
const at = (place: string) => props.people.filter((one) => one.place === place)
const now = (place: string) => at(place).find((one) => chosen.value.includes(one.person))?.person ?? ''
function choose(place: string, person: string) {
  const others = chosen.value.filter((id) => !at(place).some((one) => one.person === id))
  chosen.value = person ? [...others, person] : others
}
</script>

<template>
  <fieldset v-if="places.length" class="places">
    <legend class="label">{{ says }}</legend>
    <div v-for="[place, called] in places" :key="place" class="field">
      <label :for="`${name}-${place}`">{{ called }}</label>
      <select
        :id="`${name}-${place}`"
        :value="now(place)"
        @change="choose(place, ($event.target as HTMLSelectElement).value)"
      >
        <option value="">nobody</option>
        <option v-for="one in at(place)" :key="one.person" :value="one.person">
          {{ one.name }}, {{ roleOf(one.role).name }}
        </option>
      </select>
    </div>
  </fieldset>
</template>

<style scoped>
.places {
  display: grid;
  gap: 10px;
  border: 0;
  padding: 0;
  margin: 0;
}
legend {
  padding: 0;
  margin-bottom: 10px;
  font-weight: 700;
}
</style>
