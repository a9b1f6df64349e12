<script setup lang="ts">
/** What was read, drunk and taken up at a system over time, with what was done; the days stand in the address. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas } from '../api/client'
import { useRound } from '../api/queries'
import DayField from '../controls/DayField.vue'
import PickList from '../controls/PickList.vue'
import LoadState from '../parts/LoadState.vue'
import { lastPicked } from '../parts/recorder'
import { useRouteId } from '../parts/routeId'
import { deedName, kindsOf, nameOf, SHAPES } from './read'

/** The chart library is loaded here and nowhere else. */
const TrendChart = defineAsyncComponent(() => import('./TrendChart.vue'))
const [route, router, id] = [useRoute(), useRouter(), useRouteId()]
const day = (key: string) => {
  const value = route.query[key]
  return typeof value === 'string' && /^\d{4}-\d\d-\d\d$/.test(value) ? value : undefined
}
const span = computed(() => ({ from: day('from'), to: day('to') }))
const query = useQuery({
  queryKey: ['trends', id, span, lastPicked],
  queryFn: ({ signal }) =>
    ask(
      api.GET('/api/systems/{id}/trends', {
        params: {
          path: { id: id.value },
          query: {
            ...(span.value.from ? { from: span.value.from } : {}),
            ...(span.value.to ? { to: span.value.to } : {}),
          },
        },
        signal,
      }),
    ),
  placeholderData: keepPreviousData,
})
const view = computed(() => query.data.value)
const shown = computed(() => view.value?.trends.filter((trend) => trend.points.length) ?? [])
const empty = computed(() => view.value?.trends.filter((trend) => !trend.points.length) ?? [])
const kinds = computed(() => kindsOf(view.value?.deeds ?? []))

const DAY = 86_400_000
const ms = (on: string) => Date.parse(`${on}T00:00Z`)
const daySaid = (day: string) =>
  new Date(`${day}T12:00`).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
const on = (at: number) => new Date(at).toISOString().slice(0, 10)
const go = (from: string | undefined, to: string | undefined) =>
  void router.push({ query: { ...(from ? { from } : {}), ...(to ? { to } : {}) } })
/** As many days up to the last one that is shown. */
const last = (days: number) => view.value && go(on(ms(view.value.to) - days * DAY), span.value.to)
const days = computed(() => (view.value ? (ms(view.value.to) - ms(view.value.from)) / DAY : 0))
const RANGES: [string, number][] = [
  ['Two weeks', 14],
  ['Ten weeks', 70],
  ['Half a year', 183],
  ['A year', 366],
]
function shift(by: number) {
  if (!view.value) return
  const step = by * Math.max(1, Math.round(days.value / 2)) * DAY
  const to = Math.min(ms(view.value.to) + step, ms(view.value.today))
  go(on(to - days.value * DAY), on(to))
}
const typed = (key: 'from' | 'to') =>
  computed({
    get: () => view.value?.[key] ?? null,
    set: (now: string | null) => {
      if (!view.value || !now) return
      const span = { from: view.value.from, to: view.value.to, [key]: now }
      if (span.from <= span.to) go(span.from, span.to)
    },
  })
const [from, to] = [typed('from'), typed('to')]
const round = useRound()
const systems = computed(() =>
  (round.data.value?.systems ?? []).map((one) => ({ key: one.id, name: one.name, group: one.place_name })),
)
const system = computed({
  get: () => id.value,
  set: (now: string | null) => now && void router.push({ path: `/trends/${now}`, query: route.query }),
})
/** The shapes of what was done, as they stand above the curves. */
const ICONS: Partial<Record<string, string>> = {
  rect: 'M0 0H10V10H0Z',
  triangle: 'M5 0L10 10H0Z',
  diamond: 'M5 0L10 5L5 10L0 5Z',
  circle: 'M5 0A5 5 0 0 1 5 10A5 5 0 0 1 5 0Z',
}
const shape = (what: Schemas['DeedKind']) => ICONS[SHAPES[what]] ?? SHAPES[what].replace('path://', '')
const print = () => window.print()
</script>

<template>
  <LoadState v-if="!view" :error="query.error.value" @again="query.refetch()" />
  <section v-else class="trends">
    <header>
      <div>
        <h1>{{ view.name }}: trends</h1>
        <p class="quiet">{{ view.place_name }}, {{ daySaid(view.from) }} to {{ daySaid(view.to) }}</p>
      </div>
      <div class="doing">
        <RouterLink class="button" :to="`/system/${id}`">The system</RouterLink>
        <RouterLink class="button" :to="`/compare?of=system:${id}`">Compare</RouterLink>
        <button class="button" type="button" @click="print">Print</button>
      </div>
    </header>
    <form class="span" aria-label="What is shown" @submit.prevent>
      <PickList v-model="system" label="System" :choices="systems" />
      <DayField v-model="from" label="From" :until="view.to" />
      <DayField v-model="to" label="Up to" :until="view.today" />
      <div class="ranges" role="group" aria-label="How long">
        <button class="button" type="button" aria-label="Earlier" @click="shift(-1)">←</button>
        <button
          v-for="[said, n] in RANGES"
          :key="n"
          class="button"
          type="button"
          :aria-pressed="days === n"
          @click="last(n)"
        >
          {{ said }}
        </button>
        <button
          v-if="view.since"
          class="button"
          type="button"
          :aria-pressed="view.from === view.since"
          @click="go(view.since, undefined)"
        >
          All
        </button>
        <button class="button" type="button" aria-label="Later" :disabled="view.to >= view.today" @click="shift(1)">
          →
        </button>
      </div>
    </form>
    <p v-if="!view.since" class="quiet">
      Nothing is recorded here yet. <RouterLink :to="`/system/${id}/visit`">Start a visit</RouterLink>
    </p>
    <p v-else-if="!shown.length" class="quiet">Nothing was read in these days. Choose “All” to see when it was.</p>
    <template v-else>
      <ul class="key small">
        <li><span class="swatch band"></span> wanted at the time</li>
        <li><span class="swatch read"></span> read</li>
        <li><span class="swatch about"></span> estimate, with its range</li>
        <li v-for="what in kinds" :key="what">
          <svg viewBox="0 0 10 10" width="11" height="11" aria-hidden="true" :class="what">
            <path :d="shape(what)" fill="currentColor" />
          </svg>
          {{ deedName(what).toLowerCase() }}
        </li>
      </ul>
      <div class="charts" :class="{ waits: query.isPlaceholderData.value }">
        <TrendChart v-for="trend in shown" :key="trend.quantity" :trend="trend" :view="view" />
      </div>
      <p v-if="empty.length" class="small quiet">
        Not read in these days: {{ empty.map((trend) => nameOf(trend.quantity)).join(', ') }}.
      </p>
      <p class="small quiet hint">
        Ctrl and the wheel, or two fingers, look closer; the arrow keys go from reading to reading.
      </p>
    </template>
  </section>
</template>

<style scoped>
.trends {
  display: grid;
  gap: 16px;
  min-width: 0;
}
header,
.doing,
.ranges,
.key,
.key li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
header {
  justify-content: space-between;
}
.span {
  display: grid;
  grid-template-columns: minmax(0, 260px) minmax(0, 160px) minmax(0, 160px);
  gap: 10px 14px;
  align-items: end;
}
.ranges .button[aria-pressed='true'] {
  border-color: var(--water);
  box-shadow: inset 0 0 0 1px var(--water);
  font-weight: 650;
}
.key {
  gap: 6px 18px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.swatch {
  width: 22px;
  height: 12px;
}
.band {
  background: var(--water-wash);
  border: 1px solid var(--water-fill-2);
}
.read {
  height: 0;
  border-top: 3px solid var(--water);
}
.about {
  background: color-mix(in srgb, var(--ink-2) 16%, transparent);
  border-bottom: 1.5px dashed var(--ink-2);
}
.case,
.treatment {
  color: var(--alarm);
}
.charts {
  display: grid;
  gap: 20px;
  min-width: 0;
  transition: opacity 0.15s;
}
.waits {
  opacity: 0.55;
}
.ranges {
  grid-column: 1 / -1;
}
.ranges .button {
  padding-inline: 12px;
}
@media (max-width: 600px) {
  .span {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
  .span > :first-child {
    grid-column: 1 / -1;
  }
}
@media print {
  .span,
  .doing,
  .hint {
    display: none;
  }
  .trends {
    display: block;
  }
}
</style>
