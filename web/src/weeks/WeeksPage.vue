<script setup lang="ts">
/** The weeks ahead of a place: a strip for each system, what each day costs, and what could be done on another day. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api, ApiError, ask, newId, type Schemas } from '../api/client'
import { useUnits } from '../api/units'
import ChoiceChips from '../controls/ChoiceChips.vue'
import CsvButtons from '../parts/CsvButtons.vue'
import LoadState from '../parts/LoadState.vue'
import PlacePick from '../parts/PlacePick.vue'
import RecorderPick from '../parts/RecorderPick.vue'
import { notify } from '../parts/notice'
import { lastPicked, recorderAt } from '../parts/recorder'
import { usePlacePick } from '../parts/usePlacePick'
import PutOffSheet from '../system/PutOffSheet.vue'
import { choresOf, dayName } from '../system/putOff'
import { useRecord } from '../system/record'
import WeeksAgenda from './WeeksAgenda.vue'
import WeeksStrip from './WeeksStrip.vue'
import type { Coming } from './weeks'

const route = useRoute()
const router = useRouter()
const { places, place, names, people, picked } = usePlacePick('weeks')
const spans = [
  { key: 14, name: 'Two weeks' },
  { key: 28, name: 'Four weeks' },
  { key: 84, name: 'A term' },
]
const days = computed({
  get: () => spans.find(({ key }) => key === Number(route.query.days))?.key ?? 14,
  set: (to: number | null) => void router.replace({ query: { ...route.query, days: String(to ?? 14) } }),
})
const query = useQuery({
  queryKey: ['ahead', place, days, lastPicked],
  queryFn: () =>
    ask(api.GET('/api/places/{id}/ahead', { params: { path: { id: place.value }, query: { days: days.value } } })),
  enabled: () => place.value !== '',
  placeholderData: (before, last) => (last?.queryKey[1] === place.value ? before : undefined),
})
const view = computed(() => query.data.value)
const units = useUnits(computed(() => view.value?.units ?? 'metric'))
const { recordAndSay } = useRecord()
async function put(system: string, chosen: Schemas['PutOff'][], said: string) {
  const by = recorderAt(place.value)
  if (!by) return notify('Pick who is recording first.')
  try {
    await recordAndSay(system, by, { id: newId(), body: { kind: 'visit', put_off: chosen } }, said)
  } catch (error) {
    notify(error instanceof ApiError ? error.message : 'That could not be recorded.')
  }
}
const move = (system: string, one: Coming, to: string) =>
  put(
    system,
    choresOf(one).map((chore) => ({ chore, how: 'moved' as const, from: one.due_on, to })),
    `${one.name}: moved to ${dayName(to)}.`,
  )
function take(offer: Schemas['AheadOffer']) {
  const list = view.value?.systems.find((one) => one.id === offer.system)?.coming
  const one = list?.find((coming) => coming.first && coming.code === offer.code)
  if (one) void move(offer.system, one, offer.to)
}
const putting = ref<{ system: string; task: Coming }>()
const open = ref(false)
function ask_(system: string, task: Coming) {
  putting.value = { system, task }
  open.value = true
}
const today = computed(() => view.value?.days[0]?.on ?? '')
/** What each week comes to. */
const weeks = computed(() => {
  const all = view.value?.days ?? []
  return Array.from({ length: Math.ceil(all.length / 7) }, (_, n) => {
    const week = all.slice(7 * n, 7 * n + 7)
    const sum = (of: (day: Schemas['AheadDay']) => number) => week.reduce((total, day) => total + of(day), 0)
    return { from: week[0]!, minutes: sum((day) => day.minutes), litres: sum((day) => day.litres) }
  })
})
/** Everything that comes, a line each. */
const table = computed(() =>
  (view.value?.systems ?? [])
    .flatMap((one) => one.coming.map((task) => [task.due_on, one.name, task.name, task.until]))
    .sort((a, b) => String(a[0]).localeCompare(String(b[0]))),
)
const time = (minutes: number) =>
  minutes < 90 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, '0')}`
const water = (litres: number) => `${Math.round(units.value.toVolume(litres))} ${units.value.volume}`
</script>

<template>
  <LoadState
    v-if="!places.data.value || (place && !view)"
    :error="places.error.value ?? query.error.value"
    @again="(places.refetch(), query.refetch())"
  />
  <section v-else-if="!view">
    <h1>Weeks ahead</h1>
    <p class="quiet">
      Nothing is set up yet. <RouterLink to="/set-up">Set up the first system</RouterLink> to see what its weeks bring.
    </p>
  </section>
  <section v-else class="weeks">
    <header class="head">
      <h1>Weeks ahead: {{ view.name }}</h1>
      <RecorderPick :place="place" :people="people" />
    </header>
    <div class="picks">
      <PlacePick v-model="picked" :names="names" />
      <ChoiceChips v-model="days" label="How far" :choices="spans" />
      <RouterLink class="button plain" :to="`/cover/${place}`">Closures and cover</RouterLink>
      <RouterLink class="button plain" :to="`/class/${place}`">Checklist and rota</RouterLink>
    </div>
    <p v-if="!view.systems.length" class="quiet">
      No system stands here yet. <RouterLink to="/set-up">Set one up</RouterLink>
    </p>
    <template v-else>
      <ul v-if="view.offers.length" class="offers">
        <li v-for="offer in view.offers" :key="offer.system + offer.code">
          <span>{{ offer.said }}</span>
          <button class="button" type="button" @click="take(offer)">Move it to {{ dayName(offer.to) }}</button>
        </li>
      </ul>
      <WeeksStrip
        v-if="days <= 28"
        class="strip"
        :view="view"
        :units="units"
        @move="move"
        @ask="ask_"
        @refused="notify($event)"
      />
      <table v-if="days > 14" class="sums">
        <caption class="hidden">
          What each week costs
        </caption>
        <thead>
          <tr>
            <th scope="col">Week from</th>
            <th scope="col" class="num">Time</th>
            <th scope="col" class="num">Water</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="week in weeks" :key="week.from.on">
            <th scope="row">{{ dayName(week.from.on) }}</th>
            <td class="num">{{ time(week.minutes) }}</td>
            <td class="num">{{ water(week.litres) }}</td>
          </tr>
        </tbody>
      </table>
      <WeeksAgenda :view="view" :units="units" :term="days > 28" @ask="ask_" />
      <CsvButtons name="weeks ahead" :head="['Day', 'System', 'Task', 'No later than']" :rows="table" />
      <PutOffSheet
        v-if="putting"
        v-model:open="open"
        :system="putting.system"
        :place="place"
        :today="today"
        :task="putting.task"
        @chosen="(chosen, said) => put(putting!.system, chosen, said)"
      />
    </template>
  </section>
</template>

<style scoped>
.weeks {
  display: grid;
  gap: 20px;
  min-width: 0;
}
.head,
.picks {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  justify-content: space-between;
  gap: 8px 24px;
}
.picks {
  justify-content: flex-start;
}
.offers {
  display: grid;
  gap: 8px;
}
.offers li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 8px 16px;
  padding: 8px 14px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
.sums {
  max-width: 480px;
  border-collapse: collapse;
}
.sums th,
.sums td {
  padding: 6px 12px 6px 0;
  text-align: left;
  border-bottom: 1px solid var(--line);
  font-weight: 500;
}
.sums .num {
  text-align: right;
}
@media (max-width: 700px) {
  .strip {
    display: none;
  }
}
</style>
