<script setup lang="ts">
/** Pictures of a system, and two of them side by side over time. */
import { computed, ref } from 'vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, ApiError, as, ask, type SystemView } from '../api/client'
import LoadState from '../parts/LoadState.vue'
import SheetDialog from '../parts/SheetDialog.vue'
import { askFirst } from '../parts/ask'
import { notify } from '../parts/notice'
import PictureAdd from './PictureAdd.vue'
import { readAnew } from '../writes/anew'

const props = defineProps<{ view: SystemView; by: string | undefined; child: boolean }>()
const client = useQueryClient()
const system = computed(() => props.view.card.id)
const query = useQuery({
  queryKey: ['pictures', system],
  queryFn: () => ask(api.GET('/api/systems/{id}/pictures', { params: { path: { id: system.value } } })),
})
const pictures = computed(() => query.data.value ?? [])
const small = (id: string) => `/api/pictures/${id}?small=true`
const whole = (id: string) => `/api/pictures/${id}`
const said = (picture: { when: string; ports?: string | null; note?: string | null }) =>
  [picture.ports ? `Ports ${picture.ports}` : '', picture.when, picture.note ?? ''].filter(Boolean).join(', ')
const open = ref<string | null>(null)
const sheet = computed({ get: () => open.value !== null, set: (to) => !to && (open.value = null) })
const opened = computed(() => pictures.value.find((one) => one.id === open.value))
/** The one before it of the same ports. */
const before = computed(() => {
  const now = opened.value
  const at = pictures.value.findIndex((one) => one.id === now?.id)
  return now ? pictures.value.slice(at + 1).find((one) => (one.ports ?? '') === (now.ports ?? '')) : undefined
})
const erase = (id: string) =>
  askFirst({
    title: 'Erase this picture?',
    text: 'It is gone from the file for good. A backup that was made before still has it.',
    yes: 'Erase it',
    no: 'Keep it',
    then: async () => {
      try {
        await ask(
          api.DELETE('/api/pictures/{id}', {
            params: { path: { id }, query: { system: system.value }, header: as(props.by) },
          }),
        )
        open.value = null
        await readAnew(client, { queryKey: ['pictures', system.value] })
      } catch (error) {
        notify(error instanceof ApiError ? error.message : 'It could not be erased.')
      }
    },
  })
</script>

<template>
  <div class="pictures">
    <ul v-if="pictures.length">
      <li v-for="picture in pictures" :key="picture.id">
        <button type="button" class="thumb" @click="open = picture.id">
          <img :src="small(picture.id)" :alt="`Picture: ${said(picture)}`" width="112" height="112" loading="lazy" />
          <span class="small">{{ picture.ports ? `Ports ${picture.ports}` : 'All plants' }}</span>
          <span class="small quiet">{{ picture.when }}</span>
        </button>
      </li>
    </ul>
    <LoadState v-else-if="!query.data.value" :error="query.error.value" @again="query.refetch()" />
    <p v-else class="quiet small">No pictures yet. One now and one in a week show what words cannot.</p>
    <PictureAdd :system="system" :by="by" />
    <SheetDialog v-model:open="sheet" :title="before ? 'Then and now' : 'Picture'" free>
      <div v-if="opened" class="pair" :class="{ two: before }">
        <figure v-if="before">
          <img :src="whole(before.id)" :alt="said(before)" :width="before.width" :height="before.height" />
          <figcaption class="small">{{ said(before) }}</figcaption>
        </figure>
        <figure>
          <img :src="whole(opened.id)" :alt="said(opened)" :width="opened.width" :height="opened.height" />
          <figcaption class="small">{{ said(opened) }}</figcaption>
        </figure>
      </div>
      <button v-if="opened && !child" class="button plain" type="button" @click="erase(opened.id)">
        Erase this picture
      </button>
    </SheetDialog>
  </div>
</template>

<style scoped>
.pictures {
  display: grid;
  gap: 12px;
}
ul {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(112px, 1fr));
  gap: 10px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.thumb {
  display: grid;
  gap: 2px;
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.thumb img {
  width: 100%;
  height: 112px;
  object-fit: cover;
  border: 1px solid var(--line-2);
  border-radius: 4px;
}
.pair {
  display: grid;
  gap: 12px;
}
.two {
  grid-template-columns: 1fr 1fr;
}
figure {
  display: grid;
  gap: 4px;
  margin: 0;
}
figure img {
  width: 100%;
  height: auto;
}
@media (max-width: 640px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
