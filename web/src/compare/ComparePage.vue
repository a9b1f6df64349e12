<script setup lang="ts">
/** Systems, plantings and cycles beside each other; what is compared stands in the address. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas } from '../api/client'
import DayField from '../controls/DayField.vue'
import PickList from '../controls/PickList.vue'
import RadioChips from '../controls/RadioChips.vue'
import CsvButtons from '../parts/CsvButtons.vue'
import LoadState from '../parts/LoadState.vue'
import { lastPicked } from '../parts/recorder'
import { useReading } from '../trends/read'
import { hueVar, markOf } from './marks'
import { measureOf, nameOf } from './read'

type What = Schemas['Compared']
/** The chart library is loaded where something is drawn, and nowhere else. */
const CompareChart = defineAsyncComponent(() => import('./CompareChart.vue'))
const [route, router] = [useRoute(), useRouter()]
const text = (key: string) => (typeof route.query[key] === 'string' ? route.query[key] : '')
const of = computed(() => text('of').split(',').filter(Boolean))
const go = (part: Record<string, string | undefined>) => {
  const query = { ...route.query, ...part }
  return router.push({ query: Object.fromEntries(Object.entries(query).filter(([, value]) => value)) })
}
const MOST = 6
const GROUPS: Record<string, string> = { system: 'Systems', planting: 'Plantings', cycles: 'From change to change' }
const known = useQuery({ queryKey: ['sides'], queryFn: () => ask(api.GET('/api/compare/choices')) })
const choices = computed(() =>
  (known.data.value ?? []).map(({ key, name, place }) => ({
    key,
    name,
    group: `${GROUPS[key.split(':')[0] ?? ''] ?? ''}, ${place}`,
  })),
)
const free = computed(() => choices.value.filter((one) => !of.value.includes(one.key)))
const called = (key: string) =>
  choices.value.find((one) => one.key === key)?.name ?? (known.data.value ? 'No longer there' : '…')
const add = computed({
  get: () => null as string | null,
  set: (key) => key && void go({ of: [...of.value, key].join(',') }),
})
const drop = (key: string) => go({ of: of.value.filter((one) => one !== key).join(',') || undefined })

const asked = computed(() => ({
  of: of.value.join(','),
  ...(text('from') ? { from: text('from') } : {}),
  ...(text('to') ? { to: text('to') } : {}),
  ...(text('a') === 'port' ? { a_port: true } : {}),
}))
const query = useQuery({
  queryKey: ['compare', asked, lastPicked],
  queryFn: ({ signal }) => ask(api.GET('/api/compare', { params: { query: asked.value }, signal })),
  enabled: () => of.value.length > 0,
  placeholderData: keepPreviousData,
})
const view = computed(() => (of.value.length ? query.data.value : undefined))
const { value, unitOf, spanned } = useReading(view)
const read = computed(() => view.value?.differs.map((one) => one.what) ?? [])
const what = computed({
  get: () => read.value.find((one) => one === text('what')) ?? read.value[0],
  set: (now) => void go({ what: now }),
})
const since = computed({
  get: () => (text('by') === 'date' ? 'date' : text('by') === 'since' ? 'since' : usual.value),
  set: (now: string | undefined) => void go({ by: now }),
})
/** Systems share the calendar; what began on its own day is held against its own days. */
const usual = computed(() => (of.value.every((one) => one.startsWith('system:')) ? 'date' : 'since'))
const aPort = computed({
  get: () => (text('a') === 'port' ? 'port' : 'whole'),
  set: (now: string | undefined) => void go({ a: now === 'port' ? 'port' : undefined }),
})
const said = computed(() => view.value?.differs.find((one) => one.what === what.value)?.said ?? '')
const others = computed(() => view.value?.differs.filter((one) => one.what !== what.value) ?? [])
const day = (key: 'from' | 'to') =>
  computed({
    get: () => text(key) || view.value?.sides[0]?.[key] || null,
    set: (now: string | null) => now && void go({ [key]: now }),
  })
const [from, to] = [day('from'), day('to')]
const withSystems = computed(() => of.value.some((one) => one.startsWith('system:')))

const row = (side: Schemas['SideView'], of: What) => side.rows.find((one) => one.what === of)
const head = computed(() => ['', ...read.value.map((one) => named(one))])
const named = (one: What) => {
  const unit = unitOf(measureOf(one))
  return `${nameOf(one)}${unit ? ` [${unit}]` : ''}${aPort.value === 'port' && view.value?.differs.some((differ) => differ.what === one && differ.by_ports) ? ', a port' : ''}`
}
const usualOf = (side: Schemas['SideView'], of: What) => {
  const found = row(side, of)?.usual
  return typeof found === 'number' ? value(measureOf(of), found) : ''
}
const rangeOf = (side: Schemas['SideView'], of: What) => {
  const found = row(side, of)
  return typeof found?.low === 'number' && typeof found.high === 'number'
    ? spanned(measureOf(of), found.low, found.high)
    : ''
}
const rows = computed(
  () => view.value?.sides.map((side) => [side.name, ...read.value.map((one) => usualOf(side, one))]) ?? [],
)
</script>

<template>
  <section class="compare">
    <h1>Compare</h1>
    <div class="sides">
      <ul v-if="of.length" aria-label="Compared">
        <li v-for="key in of" :key="key">
          {{ called(key) }}
          <button class="button plain" type="button" @click="drop(key)">
            Take out<span class="hidden"> {{ called(key) }}</span>
          </button>
        </li>
      </ul>
      <PickList
        v-if="of.length < MOST"
        v-model="add"
        :label="of.length ? 'Add another' : 'What is compared'"
        :choices="free"
      />
      <p v-else class="small quiet">Six are as many as one picture can carry.</p>
    </div>
    <p v-if="!of.length" class="quiet">
      Choose two systems to see who drinks and who eats, two plantings to see what yields, or the last changes of one
      system to see whether a new way of doing it shows.
    </p>
    <LoadState v-else-if="!view" :error="query.error.value" @again="query.refetch()" />
    <template v-else>
      <p v-if="!read.length" class="hint">
        Nothing was read of any of them in these days. Choose other days, or others.
      </p>
      <template v-else>
        <div class="asks">
          <PickList v-model="what" label="Quantity" :choices="read.map((key) => ({ key, name: nameOf(key) }))" />
          <RadioChips
            v-model="since"
            label="Along"
            :choices="[
              { key: 'date', name: 'By date' },
              { key: 'since', name: 'Days since each began' },
            ]"
          />
          <RadioChips
            v-model="aPort"
            label="Amounts of"
            :choices="[
              { key: 'whole', name: 'All of it' },
              { key: 'port', name: 'A planted port' },
            ]"
          />
          <div v-if="withSystems" class="days">
            <DayField v-model="from" label="Systems from" />
            <DayField v-model="to" label="Up to" />
          </div>
        </div>
        <p class="told">{{ said }}</p>
        <CompareChart v-if="what" :view="view" :what="what" :since="since === 'since'" />
        <ul class="key" aria-label="Lines">
          <li v-for="(side, n) in view.sides" :key="side.name + side.from">
            <svg viewBox="0 0 34 12" width="34" height="12" aria-hidden="true">
              <line
                x1="0"
                y1="6"
                x2="34"
                y2="6"
                stroke-width="2.4"
                :stroke="hueVar(markOf(n).hue)"
                :stroke-dasharray="markOf(n).dash.join(' ')"
              />
              <circle v-if="markOf(n).symbol === 'circle'" cx="17" cy="6" r="4" :fill="hueVar(markOf(n).hue)" />
              <rect
                v-else-if="markOf(n).symbol === 'rect'"
                x="13"
                y="2"
                width="8"
                height="8"
                :fill="hueVar(markOf(n).hue)"
              />
              <path v-else-if="markOf(n).symbol === 'triangle'" d="M12 11L17 1L22 11Z" :fill="hueVar(markOf(n).hue)" />
              <path v-else d="M17 0L23 6L17 12L11 6Z" :fill="hueVar(markOf(n).hue)" />
            </svg>
            <RouterLink :to="`/trends/${side.system}?from=${side.from}&to=${side.to}`">{{ side.name }}</RouterLink>
          </li>
        </ul>
        <section aria-labelledby="all-head">
          <h2 id="all-head">What each comes to</h2>
          <div class="scroll" tabindex="0" role="region" aria-label="What each comes to">
            <table>
              <thead>
                <tr>
                  <th scope="col"><span class="hidden">Which</span></th>
                  <th v-for="one in read" :key="one" scope="col" class="num">{{ named(one) }}</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="side in view.sides" :key="side.name + side.from">
                  <th scope="row">{{ side.name }}</th>
                  <td v-for="one in read" :key="one" class="num">
                    {{ usualOf(side, one) === '' ? '—' : usualOf(side, one) }}
                    <span v-if="rangeOf(side, one)" class="small quiet"
                      >{{ rangeOf(side, one) }}, {{ row(side, one)?.values }}
                      {{ row(side, one)?.values === 1 ? 'value' : 'values' }}</span
                    >
                  </td>
                </tr>
              </tbody>
            </table>
          </div>
          <p class="small quiet">
            The middle value, and from the tenth to the ninetieth of a hundred. What else differs (the light, the weeks,
            the hands) stands in none of these figures.
          </p>
          <CsvButtons name="compared" :head="head" :rows="rows" />
        </section>
        <section v-if="others.length" aria-labelledby="else-head">
          <h2 id="else-head">And besides</h2>
          <ul class="others">
            <li v-for="one in others" :key="one.what">
              <button class="button plain" type="button" @click="what = one.what">{{ nameOf(one.what) }}</button>
              <p>{{ one.said }}</p>
            </li>
          </ul>
        </section>
      </template>
    </template>
  </section>
</template>

<style scoped>
.compare,
.compare section {
  display: grid;
  gap: 14px;
  grid-template-columns: minmax(0, 1fr);
}
.compare {
  gap: 20px;
}
.compare section {
  padding-top: 10px;
  border-top: 3px solid var(--water);
}
.sides {
  display: grid;
  gap: 8px;
  max-width: 560px;
}
.sides ul,
.key,
.others {
  display: grid;
  gap: 4px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.sides li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  justify-content: space-between;
  align-items: center;
  border-top: 1px solid var(--line);
}
.others li {
  display: grid;
  grid-template-columns: 220px minmax(0, 70ch);
  gap: 0 14px;
  align-items: baseline;
  border-top: 1px solid var(--line);
}
.others li:first-child {
  border-top: 0;
}
.others button {
  justify-self: start;
  padding-left: 0;
}
@media (max-width: 700px) {
  .others li {
    grid-template-columns: minmax(0, 1fr);
    padding-bottom: 8px;
  }
}
.asks {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 22px;
  align-items: end;
}
.days {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 160px));
  gap: 10px 14px;
}
.told {
  max-width: 760px;
  font-size: 21px;
  font-weight: 600;
  line-height: 1.35;
  text-wrap: balance;
}
.key {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
}
.key li {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: var(--touch);
}
.key a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
}
.hint {
  padding: 8px 14px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
.scroll {
  overflow-x: auto;
}
table {
  border-collapse: collapse;
}
th,
td {
  padding: 8px 22px 8px 0;
  border-top: 1px solid var(--line);
  text-align: left;
  vertical-align: top;
}
thead th {
  border-top: 0;
  min-width: 110px;
}
td .small {
  display: block;
}
</style>
