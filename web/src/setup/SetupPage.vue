<script setup lang="ts">
/** Set-up: places with their people, meters and systems. With nothing there it leads through the first of each. */
import { computed, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import type { CardView, Schemas } from '../api/client'
import { useKnowledge, usePlaces } from '../api/queries'
import LoadState from '../parts/LoadState.vue'
import SheetDialog from '../parts/SheetDialog.vue'
import { may } from '../door/session'
import { notify } from '../parts/notice'
import { pickRecorder } from '../parts/recorder'
import PlaceForm from './PlaceForm.vue'
import PlaceSection from './PlaceSection.vue'
import PlantingList from './PlantingList.vue'
import ShelfSection from './ShelfSection.vue'
import SystemForm from './SystemForm.vue'

const route = useRoute()
const router = useRouter()
const query = usePlaces()
/** A form shows what is kept in its reader's units: none begins before those are known. */
const knowledge = useKnowledge()
const places = computed(() => query.data.value ?? [])
const live = computed(() => places.value.filter((p) => !p.card.archived))
const addingPlace = ref(false)
const addingTo = ref<string>()
const away = ref(false)
/** Counts up where a form is begun anew. */
const turn = ref(0)

const find = (id: string) => {
  for (const place of places.value) {
    const card = place.systems.find((s) => s.id === id)
    if (card) return { place, card }
  }
}
const opened = computed(() => (typeof route.query.system === 'string' ? find(route.query.system) : undefined))
const first = computed<Schemas['PlaceView'] | undefined>(() =>
  live.value.length === 1 && live.value[0]!.systems.length === 0 ? live.value[0] : undefined,
)
/** A system that the new one begins as a copy of, at the same place. */
const copied = computed(() => (typeof route.query.like === 'string' ? find(route.query.like) : undefined))
const like = computed(() => copied.value?.card)
const target = computed(
  () => copied.value?.place ?? live.value.find((p) => p.card.id === addingTo.value) ?? first.value,
)
const nameOf = (card: CardView) => ('name' in card.body ? card.body.name : card.body.crop)

function placed(id: string) {
  addingPlace.value = false
  addingTo.value = id
}
watch(
  () => live.value.find((p) => p.card.id === addingTo.value),
  (place) => {
    const only = place?.people.length === 1 ? place.people[0]! : null
    if (place && only?.body.card === 'person') pickRecorder(place.card.id, only.id, only.body.name)
  },
)
function systemDone(id: string) {
  addingTo.value = undefined
  notify('The system is set up. What grows in it?')
  void router.push({ path: '/set-up', query: { system: id, part: 'plantings' } })
}
</script>

<template>
  <LoadState
    v-if="!query.data.value || !knowledge.data.value"
    :error="query.error.value ?? knowledge.error.value"
    @again="(query.refetch(), knowledge.refetch())"
  />
  <section v-else-if="!may('set_up') && !may('devices')" class="narrow">
    <h1>Set-up</h1>
    <p>Caretakers set up places and systems. Ask one of them to change something here, or to change your role.</p>
    <p><RouterLink class="button" to="/people">Your devices and your password</RouterLink></p>
  </section>
  <section v-else-if="live.length === 0" class="narrow">
    <h1>Where do your systems stand?</h1>
    <p class="quiet">A home, a classroom, a hall. Then the first system, then what grows in it: two minutes.</p>
    <PlaceForm :key="turn" @done="placed" @again="turn++" />
    <p class="small">Moved from another machine? <RouterLink to="/data">Bring your data in</RouterLink></p>
  </section>
  <section v-else-if="target" class="wide">
    <h1>A system at {{ nameOf(target.card) }}</h1>
    <p class="quiet">Choose the kind that looks most like it; everything it prefills can be changed.</p>
    <SystemForm
      :key="`${like?.id ?? ''}.${turn}`"
      :place="target.card"
      :meters="target.meters.filter((m) => !m.archived)"
      v-bind="like ? { like } : {}"
      @done="systemDone"
      @again="turn++"
    />
    <RouterLink v-if="like" class="button plain" to="/set-up">Back to set-up</RouterLink>
    <button v-else-if="!first" class="button plain" type="button" @click="addingTo = undefined">Back to set-up</button>
  </section>
  <section v-else-if="opened" class="wide">
    <p><RouterLink class="button plain" to="/set-up">Back to set-up</RouterLink></p>
    <h1>{{ nameOf(opened.card) }}</h1>
    <PlantingList :key="opened.card.id" :system="opened.card" />
    <details v-if="!opened.card.archived" :open="route.query.part !== 'plantings'" class="card">
      <summary>The system itself</summary>
      <SystemForm
        :key="`${opened.card.id}.${opened.card.version}.${turn}`"
        :place="opened.place.card"
        :meters="opened.place.meters.filter((m) => !m.archived)"
        :card="opened.card"
        @done="notify('Saved.')"
        @again="turn++"
      />
    </details>
    <p class="doing">
      <RouterLink class="button" :to="`/system/${opened.card.id}`">To the system’s page</RouterLink>
      <RouterLink class="button" :to="{ path: '/set-up', query: { like: opened.card.id } }">Duplicate it</RouterLink>
    </p>
  </section>
  <template v-else>
    <header class="head">
      <h1>Set-up</h1>
      <button v-if="may('house')" class="button main" type="button" @click="addingPlace = true">Add a place</button>
    </header>
    <PlaceSection
      v-for="place in live"
      :key="place.card.id"
      :place="place"
      :away="away"
      @add="addingTo = place.card.id"
    />
    <ShelfSection v-if="may('set_up')" :away="away" />
    <label class="tick"><input v-model="away" type="checkbox" /> Show what is archived</label>
    <template v-if="away">
      <PlaceSection v-for="place in places.filter((p) => p.card.archived)" :key="place.card.id" :place="place" away />
    </template>
    <p class="foot">
      <RouterLink class="button" to="/people">People and phones: who signs in, and on what</RouterLink>
      <RouterLink v-if="may('devices')" class="button" to="/data">Your data: take it along, or bring it in</RouterLink>
    </p>
    <p class="small"><RouterLink to="/notices">What Mopsel is made of, and its licences</RouterLink></p>
    <SheetDialog v-model:open="addingPlace" title="Add a place" free
      ><PlaceForm :key="turn" @done="placed" @again="turn++"
    /></SheetDialog>
  </template>
</template>

<style scoped>
.narrow {
  display: grid;
  gap: 16px;
  max-width: 560px;
}
.wide {
  display: grid;
  gap: 16px;
  max-width: 1120px;
  justify-items: stretch;
}
.wide > .button {
  justify-self: start;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin-bottom: 16px;
}
.doing {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.foot {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 32px;
}
p.small a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
}
</style>
