<script setup lang="ts">
/** A week of a class: who does what, a sheet for each system to print, and the same to type back from the paper. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api, ApiError, ask } from '../api/client'
import { useKit, useUnits } from '../api/units'
import LoadState from '../parts/LoadState.vue'
import PlacePick from '../parts/PlacePick.vue'
import { notify } from '../parts/notice'
import { lastPicked } from '../parts/recorder'
import { usePlacePick } from '../parts/usePlacePick'
import { useRecord } from '../system/record'
import ClassRota from './ClassRota.vue'
import ClassSheet from './ClassSheet.vue'
import { isTyped, keyOf, noonOf, unread, visitOf, type Paper } from './paper'

const route = useRoute()
const router = useRouter()
const { places, card, place, names, people, picked } = usePlacePick('class')
const from = computed(() => (typeof route.query.from === 'string' ? route.query.from : undefined))
const query = useQuery({
  queryKey: ['week', place, from, lastPicked],
  queryFn: () =>
    ask(
      api.GET('/api/places/{id}/week', {
        params: { path: { id: place.value }, query: from.value ? { from: from.value } : {} },
      }),
    ),
  enabled: () => place.value !== '',
  placeholderData: (before, last) => (last?.queryKey[1] === place.value ? before : undefined),
})
const view = computed(() => query.data.value)
const units = useUnits(computed(() => view.value?.units ?? 'metric'))
const { kitReading } = useKit()
const zone = computed(() => (card.value?.card.body.card === 'place' ? card.value.card.body.zone : 'UTC'))
const go = (to: string) => router.replace({ query: { ...route.query, from: to } })

/** What is typed outlives a reload, until it is recorded. */
const typing = ref(false)
const paper = ref<Paper>({})
const KEY = computed(() => `mopsel.paper.${place.value}`)
watch(
  KEY,
  (key) => {
    paper.value = JSON.parse(localStorage.getItem(key) ?? '{}') as Paper
    typing.value = Object.values(paper.value).some(isTyped)
  },
  { immediate: true },
)
watch(paper, (now) => localStorage.setItem(KEY.value, JSON.stringify(now)), { deep: true })

const { record } = useRecord()
const busy = ref(false)
const wrong = ref<Record<string, string>>({})
const columns = computed(() =>
  (view.value?.systems ?? []).flatMap((system) =>
    (view.value?.days ?? []).map((day) => ({ system, on: day.on, key: keyOf(system.id, day.on) })),
  ),
)
const ready = computed(() => columns.value.filter(({ key }) => isTyped(paper.value[key])))
async function save() {
  wrong.value = {}
  busy.value = true
  let kept = 0
  let waits = false
  for (const { system, on, key } of ready.value) {
    const typed = paper.value[key]!
    if (!typed.who) {
      wrong.value[key] = 'Say who did it.'
      continue
    }
    if (Object.values(typed.numbers).some(unread)) {
      wrong.value[key] = 'One of these is not a number.'
      continue
    }
    try {
      const visit = visitOf(system, system.rows, typed, units.value, kitReading)
      const came = await record(system.id, typed.who, {
        id: typed.id,
        ...noonOf(on, view.value!.today, zone.value),
        body: { kind: 'visit', ...visit },
      })
      kept++
      // What still waits for a connection stands here until it is recorded; sent twice, it is one visit.
      if (came === 'recorded') delete paper.value[key]
      else waits = true
    } catch (error) {
      wrong.value[key] = error instanceof ApiError ? error.message : 'That could not be recorded.'
    }
  }
  busy.value = false
  const left = Object.keys(wrong.value).length
  if (kept)
    notify(
      waits
        ? 'Not connected. It is kept on this device, and sent as soon as it is.'
        : `Recorded: ${kept === 1 ? 'one visit' : `${kept} visits`}${left ? `; ${left} to mend` : ''}.`,
    )
  if (!left && kept && !waits) typing.value = false
}
const print = () => window.print()
</script>

<template>
  <LoadState
    v-if="!places.data.value || (place && !view)"
    :error="places.error.value ?? query.error.value"
    @again="(places.refetch(), query.refetch())"
  />
  <section v-else-if="!view">
    <h1>A week of the class</h1>
    <p class="quiet">Nothing is set up yet. <RouterLink to="/set-up">Set up the first system</RouterLink></p>
  </section>
  <section v-else class="class">
    <header class="head">
      <h1>{{ view.name }}: the week {{ view.span }}</h1>
    </header>
    <div class="picks screen">
      <PlacePick v-model="picked" :names="names" />
      <button class="button" type="button" @click="go(view.beside[0]!)">The week before</button>
      <button class="button" type="button" @click="go(view.beside[1]!)">The week after</button>
      <button class="button" type="button" :disabled="!view.days.length" @click="print">Print the sheets</button>
      <button v-if="view.days.length" class="button" :class="{ main: !typing }" type="button" @click="typing = !typing">
        {{ typing ? 'Back to the rota' : 'Type the paper back' }}
      </button>
    </div>
    <p v-if="view.nobody" class="note">{{ view.nobody }}</p>
    <ClassRota v-if="!typing && view.hands.length" class="rota" :view="view" :people="people" />
    <template v-if="view.days.length">
      <ClassSheet
        v-for="system in view.systems"
        :key="system.id"
        v-model="paper"
        :view="view"
        :system="system"
        :units="units"
        :typing="typing"
        :people="people"
        :wrong="wrong"
      />
      <p v-if="!view.systems.length" class="quiet">
        No system stands here yet. <RouterLink to="/set-up">Set one up</RouterLink>
      </p>
    </template>
    <p v-if="typing" class="foot">
      <button class="button main" type="button" :disabled="busy || !ready.length" @click="save">
        {{
          ready.length
            ? `Record ${ready.length === 1 ? 'this visit' : `these ${ready.length} visits`}`
            : 'Nothing is typed yet'
        }}
      </button>
      <span class="small quiet">Each day of each system is one visit, dated to noon of its day.</span>
    </p>
  </section>
</template>

<style scoped>
.class {
  display: grid;
  gap: 20px;
  min-width: 0;
}
.picks,
.foot {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 8px;
}
.foot {
  align-items: center;
}
.note {
  padding: 8px 14px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
@media print {
  .screen,
  .foot {
    display: none;
  }
  .class {
    display: block;
  }
}
</style>
