<script setup lang="ts">
/** What was edited of the set-up of a place or a system: before and after, by whom, and a way back. */
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { api, ask, type Schemas } from '../api/client'
import LoadState from '../parts/LoadState.vue'
import PlacePick from '../parts/PlacePick.vue'
import { askFirst } from '../parts/ask'
import { notify } from '../parts/notice'
import { lastPicked } from '../parts/recorder'
import { usePlacePick } from '../parts/usePlacePick'
import { useCard } from './cards'

type Edit = Schemas['EditView']
const { places, card, place, names, picked } = usePlacePick('edits')
const query = useInfiniteQuery({
  queryKey: ['edits', place, lastPicked],
  queryFn: ({ pageParam }) =>
    ask(api.GET('/api/cards/{id}/edits', { params: { path: { id: place.value }, query: { skip: pageParam } } })),
  initialPageParam: 0,
  getNextPageParam: (page: Schemas['EditsPage']) => page.next ?? undefined,
  enabled: () => place.value !== '',
})
const edits = computed(() => query.data.value?.pages.flatMap((page) => page.edits) ?? [])
const title = computed(() => (card.value && 'name' in card.value.card.body ? card.value.card.body.name : ''))
const { put, failed, busy } = useCard()

async function takeBack(edit: Edit) {
  const undo = edit.undo
  if (!undo) return
  const { version, body, archived, holds } = undo
  const done = await put({ id: edit.card }, { version, body: body ?? null, archived: archived ?? null, holds })
  if (!done) return notify(failed.value)
  notify(`${edit.name} is as it was before.`)
  await query.refetch()
}
const archives = (edit: Edit) => edit.undo?.archived === true && !edit.undo.body
const press = (edit: Edit) =>
  archives(edit)
    ? askFirst({
        title: `Archive ${edit.name}?`,
        text: 'It is asked for no more. Its log stays, and it can be taken out again under Set-up.',
        yes: 'Archive it',
        no: 'Leave it',
        then: () => takeBack(edit),
      })
    : takeBack(edit)
const back = (edit: Edit) => (archives(edit) ? 'Archive it' : 'Undo this')
</script>

<template>
  <section class="edits">
    <header>
      <p><RouterLink class="button plain" to="/set-up">Back to set-up</RouterLink></p>
      <h1>Changes to the set-up{{ title ? ` of ${title}` : '' }}</h1>
      <p class="quiet">Who changed what, the newest first. Undoing a change leaves later changes as they are.</p>
      <PlacePick v-model="picked" :names="names" />
    </header>
    <LoadState
      v-if="!query.data.value || !places.data.value"
      :error="query.error.value ?? places.error.value"
      @again="query.refetch()"
    />
    <p v-else-if="!edits.length" class="quiet">Nothing was set up here yet.</p>
    <ol v-else>
      <li v-for="edit in edits" :key="`${edit.card}.${edit.version}`">
        <h2>
          {{ edit.name }} <span class="quiet small">{{ edit.kind }}</span>
        </h2>
        <p class="small quiet">
          {{ edit.says }}<template v-if="edit.by_name"> by {{ edit.by_name }}</template
          >, {{ edit.when }}<template v-if="edit.holds">. {{ edit.holds }}</template>
        </p>
        <dl v-if="edit.fields.length">
          <div v-for="field in edit.fields" :key="field.name">
            <dt>{{ field.name }}</dt>
            <dd v-if="field.after">
              <s>{{ field.before }}</s> <span aria-hidden="true">→</span> <strong>{{ field.after }}</strong>
            </dd>
            <dd v-else class="quiet">was edited</dd>
          </div>
        </dl>
        <button
          v-if="edit.undo"
          class="button plain"
          type="button"
          :disabled="busy"
          :aria-label="`${back(edit)}: ${edit.name}, ${edit.when}`"
          @click="press(edit)"
        >
          {{ back(edit) }}
        </button>
      </li>
    </ol>
    <button
      v-if="query.hasNextPage.value"
      class="button earlier"
      type="button"
      :disabled="query.isFetchingNextPage.value"
      @click="query.fetchNextPage()"
    >
      Earlier changes
    </button>
  </section>
</template>

<style scoped>
.edits {
  display: grid;
  gap: 16px;
  max-width: 760px;
}
header {
  display: grid;
  gap: 6px;
  justify-items: start;
}
ol {
  display: grid;
  list-style: none;
}
li {
  display: grid;
  gap: 6px;
  justify-items: start;
  padding: 14px 0;
  border-top: 1px solid var(--line);
  overflow-wrap: anywhere;
}
h2 {
  font-size: 18px;
}
dl {
  display: grid;
  gap: 4px;
  width: 100%;
}
dl div {
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 3fr);
  gap: 4px 16px;
}
dt {
  color: var(--ink-2);
}
s {
  color: var(--ink-2);
}
.earlier {
  justify-self: start;
}
</style>
