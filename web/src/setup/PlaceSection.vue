<script setup lang="ts">
/** One place with its people, meters and systems; each can be edited and put away. */
import { scaleName } from '../api/units'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { CardView, Schemas } from '../api/client'
import SheetDialog from '../parts/SheetDialog.vue'
import { roleOf } from '../door/roles'
import { may } from '../door/session'
import { notify } from '../parts/notice'
import ClosureForm from './ClosureForm.vue'
import PlaceForm from './PlaceForm.vue'
import SmallForm from './SmallForm.vue'
import { useCard } from './cards'

const props = defineProps<{ place: Schemas['PlaceView']; away: boolean }>()
defineEmits<{ add: [] }>()
const { archive, failed } = useCard()
const editing = ref<{ what: 'place' | 'person' | 'meter'; card?: CardView } | null>(null)
const closing = ref(false)
const open = computed({ get: () => editing.value !== null, set: () => (editing.value = null) })
const body = computed(() => (props.place.card.body.card === 'place' ? props.place.card.body : null))
const name = (card: CardView) => ('name' in card.body ? card.body.name : card.body.crop)
const shown = (cards: CardView[]) => cards.filter((c) => props.away || !c.archived)
/** What whoever is here may set up at this place. */
const sets = computed(() => may('set_up', props.place.card.id))
const mayEdit = (what: 'person' | 'meter') => may(what === 'person' ? 'people' : 'devices', props.place.card.id)
const say = (card: CardView) =>
  card.body.card === 'person'
    ? roleOf(card.body.role).name
    : card.body.card === 'meter'
      ? scaleName(card.body.scale)
      : ''

async function putAway(card: CardView) {
  const after = await archive(card, !card.archived)
  if (!after) return notify(failed.value)
  notify(after.archived ? `${name(card)} is archived; its log stays.` : `${name(card)} is back.`, async () => {
    await archive(after, !after.archived)
  })
}
</script>

<template>
  <section class="place" :aria-label="name(place.card)">
    <header>
      <div>
        <h2>{{ name(place.card) }}</h2>
        <p class="small quiet">
          {{ body?.zone.replace(/_/g, ' ') }},
          {{ body?.open_days.length === 7 ? 'every day' : `${body?.open_days.length} days a week`
          }}<span v-if="place.card.archived">, archived</span>
        </p>
      </div>
      <span class="gap"></span>
      <button
        v-if="sets && !place.card.archived"
        class="button plain"
        type="button"
        :aria-label="`Closures of ${name(place.card)}`"
        @click="closing = true"
      >
        Closures
      </button>
      <RouterLink
        v-if="!place.card.archived && place.systems.length"
        class="button plain"
        :to="`/labels?places=${place.card.id}`"
        :aria-label="`Labels of ${name(place.card)}`"
        >Labels</RouterLink
      >
      <RouterLink
        v-if="body?.closures?.length"
        class="button plain"
        :to="`/cover/${place.card.id}`"
        :aria-label="`Cover plan of ${name(place.card)}`"
        >Cover plan</RouterLink
      >
      <RouterLink
        class="button plain"
        :to="`/edits/${place.card.id}`"
        :aria-label="`Changes to the set-up of ${name(place.card)}`"
        >Changes</RouterLink
      >
      <button
        v-if="sets"
        class="button plain"
        type="button"
        :aria-label="`Edit ${name(place.card)}`"
        @click="editing = { what: 'place', card: place.card }"
      >
        Edit
      </button>
      <button
        v-if="sets"
        class="button plain"
        type="button"
        :aria-label="`${place.card.archived ? 'Bring back' : 'Archive'}: ${name(place.card)}`"
        @click="putAway(place.card)"
      >
        {{ place.card.archived ? 'Bring back' : 'Archive' }}
      </button>
    </header>
    <div class="columns">
      <div>
        <h3>Systems</h3>
        <ul>
          <li v-for="s in shown(place.systems)" :key="s.id">
            <RouterLink :to="sets ? { path: '/set-up', query: { system: s.id } } : `/system/${s.id}`">{{
              name(s)
            }}</RouterLink>
            <button
              v-if="sets"
              class="button plain"
              type="button"
              :aria-label="`${s.archived ? 'Bring back' : 'Archive'}: ${name(s)}`"
              @click="putAway(s)"
            >
              {{ s.archived ? 'Bring back' : 'Archive' }}
            </button>
          </li>
        </ul>
        <p v-if="!place.systems.length" class="quiet">None yet.</p>
        <button v-if="sets && !place.card.archived" class="button" type="button" @click="$emit('add')">
          Add a system
        </button>
      </div>
      <div
        v-for="[what, title, cards] in [
          ['person', 'People', place.people],
          ['meter', 'Meters', place.meters],
        ] as ['person' | 'meter', string, CardView[]][]"
        :key="what"
      >
        <h3>{{ title }}</h3>
        <ul>
          <li v-for="c in shown(cards)" :key="c.id">
            <button
              class="button plain name"
              type="button"
              :disabled="!mayEdit(what)"
              :aria-label="`Edit ${name(c)}`"
              @click="editing = { what, card: c }"
            >
              {{ name(c) }}
            </button>
            <span class="small quiet">{{ say(c) }}</span>
            <button
              v-if="mayEdit(what)"
              class="button plain"
              type="button"
              :aria-label="`${c.archived ? 'Bring back' : 'Archive'}: ${name(c)}`"
              @click="putAway(c)"
            >
              {{ c.archived ? 'Bring back' : 'Archive' }}
            </button>
          </li>
        </ul>
        <p v-if="!cards.length" class="quiet">None yet.</p>
        <button v-if="mayEdit(what) && !place.card.archived" class="button" type="button" @click="editing = { what }">
          {{ what === 'person' ? 'Add a person' : 'Add a meter' }}
        </button>
      </div>
    </div>
    <SheetDialog
      v-model:open="open"
      :title="
        editing?.card ? `Edit ${name(editing.card)}` : editing?.what === 'person' ? 'Add a person' : 'Add a meter'
      "
    >
      <PlaceForm v-if="editing?.what === 'place' && editing.card" :card="editing.card" @done="editing = null" />
      <SmallForm
        v-else-if="editing && editing.what !== 'place'"
        :place="place.card.id"
        :what="editing.what"
        :units="body?.units ?? 'metric'"
        v-bind="editing.card ? { card: editing.card } : {}"
        @done="editing = null"
      />
    </SheetDialog>
    <SheetDialog v-model:open="closing" title="Days on which nobody comes">
      <ClosureForm v-if="closing" :card="place.card" @done="closing = false" />
    </SheetDialog>
  </section>
</template>

<style scoped>
.place {
  border-top: 2px solid var(--ink);
  padding: 12px 0 28px;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  margin-bottom: 8px;
}
.gap {
  flex: 1;
}
.columns {
  display: grid;
  grid-template-columns: 1.2fr 1fr 1fr;
  gap: 32px;
}
.columns > div {
  display: grid;
  gap: 6px;
  align-content: start;
  justify-items: start;
  min-width: 0;
}
ul {
  width: 100%;
}
li {
  display: flex;
  align-items: center;
  gap: 8px;
  border-bottom: 1px solid var(--line);
}
li > :first-child {
  flex: 1;
  justify-content: flex-start;
  padding-left: 0;
  overflow-wrap: anywhere;
}
li > a {
  min-height: var(--touch);
  display: flex;
  align-items: center;
}
@media (max-width: 900px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
