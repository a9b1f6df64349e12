<script setup lang="ts">
/** The round as it is walked: what is made ready in one go, then stop by stop in the order of the way. Prints. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas } from '../api/client'
import { usePlaces, useShelf } from '../api/queries'
import { useUnits } from '../api/units'
import ChoiceChips from '../controls/ChoiceChips.vue'
import LoadState from '../parts/LoadState.vue'
import StandMark from '../parts/StandMark.vue'
import { lastPicked } from '../parts/recorder'
import { pathOf } from '../system/way'

const route = useRoute()
const router = useRouter()
const places = usePlaces()
const names = computed(() =>
  (places.data.value ?? [])
    .filter((one) => !one.card.archived)
    .map((one) => ({ key: one.card.id, name: 'name' in one.card.body ? one.card.body.name : '' })),
)
const chosen = computed<string[]>({
  get: () =>
    String(route.query.places ?? '')
      .split(',')
      .filter(Boolean),
  set: (to) => void router.replace({ query: to.length ? { places: to.join(',') } : {} }),
})
const over = computed(() => chosen.value.join(','))
const query = useQuery({
  queryKey: ['outing', over, lastPicked],
  queryFn: () => ask(api.GET('/api/outing', { params: { query: over.value ? { places: over.value } : {} } })),
  placeholderData: (before) => before,
})
const view = computed(() => query.data.value)
const units = useUnits(computed(() => view.value?.units ?? 'metric'))
const shelf = useShelf()
const recipeName = (id: string | null | undefined) =>
  shelf.data.value?.recipes.find((one) => one.id === id)?.recipe.name
/** The bench with the whole batch, where it is shared; else with the one system that it is for. */
function bench(mix: Schemas['OutingMix']) {
  if (mix.system) return { path: '/bench', query: { system: mix.system, for: mix.purpose ?? 'top_off' } }
  return {
    path: '/bench',
    query: {
      for: 'jug',
      units: view.value?.units,
      litres: String(units.value.toVolume(mix.litres)),
      ...(mix.recipe ? { recipe: mix.recipe } : {}),
      ...(mix.ec ? { target: String(Number(mix.ec.toFixed(2))), scale: 'ms_cm' } : {}),
    },
  }
}
/** What is packed is remembered for the day on this device. */
const KEY = 'mopsel.packed'
const packed = ref(new Set<string>())
watch(
  () => view.value?.today,
  (today) => {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? '{}') as { today?: string; what?: string[] }
    packed.value = new Set(kept.today === today ? kept.what : [])
  },
  { immediate: true },
)
function pack(what: string) {
  const set = new Set(packed.value)
  if (!set.delete(what)) set.add(what)
  packed.value = set
  localStorage.setItem(KEY, JSON.stringify({ today: view.value?.today, what: [...set] }))
}
const nothing = computed(() => {
  const kit = view.value?.kit
  return !!kit && !kit.plain && !kit.mixes.length && !kit.products.length && !kit.tools.length
})
const print = () => window.print()
const time = (minutes: number) =>
  minutes < 90 ? `${minutes} minutes` : `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, '0')}`
const tasks = (count: number) => (count === 1 ? 'one task' : `${count} tasks`)
</script>

<template>
  <LoadState v-if="!view" :error="query.error.value" @again="query.refetch()" />
  <section v-else class="outing">
    <header>
      <h1>The round, stop by stop</h1>
      <p class="quiet">
        {{ view.today }}: {{ view.stops.length === 1 ? 'one stop' : `${view.stops.length} stops` }}, about
        {{ time(view.minutes) }} without the ways between
      </p>
    </header>
    <ChoiceChips
      v-if="names.length > 1"
      v-model="chosen"
      class="screen"
      label="Over these places (none chosen: all)"
      :choices="names"
      several
    />
    <p v-if="!view.stops.length" class="quiet">
      Nothing is due {{ chosen.length ? 'there ' : '' }}today. <RouterLink to="/weeks">See the weeks ahead</RouterLink>
    </p>
    <div v-else class="page">
      <section class="kit" aria-labelledby="kit-head">
        <h2 id="kit-head">Make ready</h2>
        <p v-if="nothing" class="quiet">Nothing has to be carried.</p>
        <ul>
          <li v-if="view.kit.plain">
            <label
              ><input type="checkbox" :checked="packed.has('plain')" @change="pack('plain')" /><strong>{{
                view.kit.plain
              }}</strong></label
            >
          </li>
          <li v-for="(mix, n) in view.kit.mixes" :key="n">
            <label>
              <input type="checkbox" :checked="packed.has(`mix ${mix.said}`)" @change="pack(`mix ${mix.said}`)" />
              <span>
                <strong>{{ mix.said }}</strong>
                <span v-if="recipeName(mix.recipe)" class="small quiet block">{{ recipeName(mix.recipe) }}</span>
                <span class="small block">{{ mix.products.join(', ') }}</span>
                <span class="small quiet block"
                  >{{ mix.shares.join(', ') }}{{ mix.in_vessel ? ', mixed in the vessel itself' : '' }}</span
                >
              </span>
            </label>
            <RouterLink class="button plain screen" :to="bench(mix)">{{
              mix.system ? 'Bench' : 'Mix it in one go'
            }}</RouterLink>
          </li>
          <li v-for="product in view.kit.products" :key="product">
            <label><input type="checkbox" :checked="packed.has(product)" @change="pack(product)" />{{ product }}</label>
          </li>
          <li v-for="tool in view.kit.tools" :key="tool">
            <label><input type="checkbox" :checked="packed.has(tool)" @change="pack(tool)" />{{ tool }}</label>
          </li>
        </ul>
        <template v-if="view.kit.open.length">
          <h3>Worked out at the tank</h3>
          <p v-for="line in view.kit.open" :key="line" class="small">{{ line }}</p>
        </template>
        <button class="button screen" type="button" @click="print">Print the round</button>
      </section>
      <section aria-labelledby="way-head">
        <h2 id="way-head">The way</h2>
        <p v-if="view.last_why" class="last">{{ view.last_why }}</p>
        <ol>
          <li v-for="(stop, n) in view.stops" :key="stop.system">
            <h3 v-if="n === 0 || view.stops[n - 1]!.place !== stop.place" class="place quiet">{{ stop.place_name }}</h3>
            <article :aria-label="stop.name" :class="{ suspect: stop.suspect_why }">
              <header>
                <span class="num turn" aria-hidden="true">{{ n + 1 }}</span>
                <RouterLink class="name" :to="`/system/${stop.system}`">{{ stop.name }}</RouterLink>
                <span class="small quiet">{{ tasks(stop.tasks.length) }}, {{ stop.minutes }} min</span>
                <RouterLink
                  class="button screen"
                  :to="`/system/${stop.system}/visit`"
                  :aria-label="`Visit ${stop.name}`"
                  >Visit</RouterLink
                >
              </header>
              <p v-if="stop.suspect_why" class="small">{{ stop.suspect_why }}</p>
              <p v-for="line in stop.pours" :key="line" class="pours">{{ line }}</p>
              <ul class="tasks">
                <li v-for="task in stop.tasks" :key="task.code">
                  <span class="box" aria-hidden="true"></span>
                  <RouterLink v-if="task.way" :to="pathOf(task.way, stop.system)">{{ task.name }}</RouterLink>
                  <span v-else>{{ task.name }}</span>
                  <StandMark class="small" :task="task">{{ task.safe }}</StandMark>
                </li>
              </ul>
            </article>
          </li>
        </ol>
      </section>
    </div>
  </section>
</template>

<style scoped>
.outing,
section,
.kit ul,
ol,
article {
  display: grid;
  gap: 12px;
  align-content: start;
  min-width: 0;
}
.page {
  display: grid;
  grid-template-columns: minmax(260px, 380px) minmax(0, 1fr);
  gap: 24px 40px;
  align-items: start;
}
.kit {
  padding: 16px 18px;
  border: 1px solid var(--line);
  border-top: 5px solid var(--water);
  border-radius: 4px;
  background: var(--sheet);
}
.kit ul {
  gap: 0;
}
.kit li {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  border-bottom: 1px solid var(--line);
}
.kit label {
  display: grid;
  grid-template-columns: 24px minmax(0, 1fr);
  gap: 12px;
  align-items: center;
  flex: 1;
  min-height: var(--touch);
  padding: 6px 0;
  cursor: pointer;
}
.kit input {
  width: 24px;
  height: 24px;
  margin: 0;
}
.kit .button.plain {
  white-space: nowrap;
}
.block {
  display: block;
}
.last {
  padding: 8px 14px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
.place {
  padding: 10px 0 4px;
}
article {
  gap: 6px;
  padding: 10px 0 12px;
  border-top: 1px solid var(--line-2);
}
article.suspect {
  padding-left: 12px;
  border-left: 4px solid var(--alarm);
}
article header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 14px;
}
.turn {
  min-width: 24px;
  font-size: 22px;
  font-weight: 750;
  color: var(--ink-2);
}
.name {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
  font-size: 20px;
  font-weight: 700;
  color: var(--ink);
}
article header .button {
  margin-left: auto;
}
.pours {
  font-weight: 650;
}
.tasks {
  display: grid;
}
.tasks li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 14px;
  min-height: 36px;
}
.tasks a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
}
.box {
  display: none;
  width: 15px;
  height: 15px;
  border: 1.5px solid var(--ink-2);
}
@media (max-width: 820px) {
  .page {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media print {
  .screen {
    display: none;
  }
  .box {
    display: inline-block;
  }
  .page {
    display: block;
  }
  article,
  .kit li {
    break-inside: avoid;
  }
}
</style>
