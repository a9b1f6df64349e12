<script setup lang="ts">
/** By what the log is narrowed down. */
import { computed } from 'vue'
import type { CardView, Schemas } from '../api/client'
import { useChoices, usePlaces } from '../api/queries'
import DayField from '../controls/DayField.vue'
import PickList from '../controls/PickList.vue'
import type { Asked } from './asked'

const asked = defineModel<Asked>({ required: true })
const { data } = usePlaces()
const choices = useChoices()
const called = (card: CardView) => ('name' in card.body ? String(card.body.name) : '')
const all = computed(() => data.value ?? [])
const places = computed(() => all.value.map((one) => ({ key: one.card.id, name: called(one.card) })))
const within = computed(() => all.value.filter((one) => !asked.value.place || one.card.id === asked.value.place))
const of = (what: 'systems' | 'people') =>
  within.value.flatMap((place) =>
    place[what].map((card) => ({ key: card.id, name: called(card), group: called(place.card) })),
  )
const systems = computed(() => of('systems'))
const people = computed(() => of('people'))
const part = <K extends keyof Asked>(key: K) =>
  computed({ get: () => asked.value[key], set: (now: Asked[K]) => (asked.value = { ...asked.value, [key]: now }) })
const [words, system, person] = [part('words'), part('system'), part('person')]
const [sort, from, to] = [part('sort'), part('from'), part('to')]
/** Another place has other systems and people. */
const place = computed({
  get: () => asked.value.place,
  set: (now: string | null) => (asked.value = { ...asked.value, place: now, system: null, person: null }),
})
</script>

<template>
  <form role="search" aria-label="Log" class="filters" @submit.prevent>
    <div class="field words">
      <label for="log-words">Words</label>
      <input
        id="log-words"
        v-model="words"
        type="search"
        maxlength="200"
        autocomplete="off"
        enterkeyhint="search"
        placeholder="heron, white film, Leaf feed A"
      />
    </div>
    <PickList v-if="places.length > 1" v-model="place" label="Place" :choices="places" none="All places" />
    <PickList v-model="system" label="System" :choices="systems" none="All systems" />
    <PickList v-model="sort" label="What it is about" :choices="choices<Schemas['Sort']>('sort')" none="Anything" />
    <PickList v-model="person" label="Who" :choices="people" none="Anybody" />
    <DayField v-model="from" label="From" />
    <DayField v-model="to" label="Up to" />
  </form>
</template>

<style scoped>
.filters {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(180px, 100%), 1fr));
  gap: 10px 14px;
  align-items: end;
}
.words {
  grid-column: span 2;
}
@media (min-width: 1000px) {
  .filters {
    grid-template-columns: 1.5fr repeat(4, 1fr) repeat(2, 1.1fr);
  }
  .words {
    grid-column: auto;
  }
}
@media (max-width: 600px) {
  .filters {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
@media print {
  .filters {
    display: none;
  }
}
</style>
