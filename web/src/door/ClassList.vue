<script setup lang="ts">
/** Classes: opened for a room and an hour, with a code that is shown once; ended by a tap. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ApiError, ask, newId, type Schemas } from '../api/client'
import { usePlaces } from '../api/queries'
import SheetDialog from '../parts/SheetDialog.vue'
import { notify } from '../parts/notice'
import { isHereOnly, useReach } from './reach'
import QrCode from './QrCode.vue'
import { may } from './session'
import { useSend } from './useSend'

const places = usePlaces()
const reach = useReach().data
const query = useQuery({
  queryKey: ['classes'],
  queryFn: () => ask(api.GET('/api/classes')),
  refetchInterval: 30_000,
})
const classes = computed(() => query.data.value ?? [])
/** Rooms with children, of which one decides. */
const rooms = computed(() =>
  (places.data.value ?? []).flatMap(({ card, people }) => {
    const children = people.some((one) => !one.archived && one.body.card === 'person' && one.body.role === 'child')
    if (!children || card.archived || card.body.card !== 'place' || !may('people', card.id)) return []
    return [{ id: card.id, name: card.body.name }]
  }),
)
const opening = ref(false)
const room = ref('')
const minutes = ref(60)
const { rest, send } = useSend([])
const opened = ref<Schemas['ClassOpened']>()
const shown = computed({
  get: () => opening.value || opened.value !== undefined,
  set: () => ((opening.value = false), (opened.value = undefined)),
})
const LENGTHS = [30, 45, 60, 90, 120, 240]
const said = (length: number) => (length < 60 ? `${length} minutes` : length === 60 ? '1 hour' : `${length / 60} hours`)
const at = computed(() =>
  isHereOnly(location.origin) ? (reach.value?.addresses[0] ?? location.origin) : location.origin,
)

function begin() {
  room.value = rooms.value[0]?.id ?? ''
  opening.value = true
}
const open = () =>
  send(async () => {
    const body = { id: newId(), place: room.value, minutes: minutes.value, at: at.value }
    opened.value = await ask(api.POST('/api/classes', { body }))
    await query.refetch()
  })
async function end(one: Schemas['ClassView']) {
  try {
    await ask(api.DELETE('/api/classes/{id}', { params: { path: { id: one.id } } }))
    notify(`The class in ${one.place_name} has ended. Its tablets show nothing more.`)
    await query.refetch()
  } catch (error) {
    notify(error instanceof ApiError ? error.message : String(error))
  }
}
</script>

<template>
  <section v-if="rooms.length || classes.length" aria-label="Classes">
    <header>
      <h2>Classes</h2>
      <button class="button" type="button" @click="begin">Open a class</button>
    </header>
    <p v-if="!classes.length" class="quiet">
      No class is open. A tablet in a class shows what children can do in one room, and nothing else.
    </p>
    <ul>
      <li v-for="one in classes" :key="one.id">
        <span>
          <strong>{{ one.place_name }}</strong> until {{ one.until }}
          <span class="small quiet">{{ one.devices === 1 ? '1 tablet' : `${one.devices} tablets` }}</span>
        </span>
        <button class="button plain" type="button" :aria-label="`End the class in ${one.place_name}`" @click="end(one)">
          End
        </button>
      </li>
    </ul>
    <SheetDialog v-model:open="shown" free :title="opened ? `Join ${opened.class.place_name}` : 'Open a class'">
      <div v-if="opened" class="board">
        <p>Children open Mopsel on a tablet, tap <em>Join a class</em>, and type:</p>
        <p class="code">{{ opened.code }}</p>
        <p>Or point the tablet’s camera at this:</p>
        <QrCode
          :size="opened.size"
          :path="opened.path"
          :says="`QR code: join the class in ${opened.class.place_name}`"
        />
        <p class="small quiet">
          It is shown now and not again, and works until {{ opened.class.until }}. A new code ends this one.
        </p>
        <p v-if="isHereOnly(at)" class="small">Only this computer opens it: start Mopsel with <code>--lan</code>.</p>
      </div>
      <form v-else class="form" @submit.prevent="open">
        <div class="field">
          <label for="class-room">Room</label>
          <select id="class-room" v-model="room">
            <option v-for="one in rooms" :key="one.id" :value="one.id">{{ one.name }}</option>
          </select>
        </div>
        <div class="field">
          <label for="class-length">For</label>
          <select id="class-length" v-model.number="minutes">
            <option v-for="length in LENGTHS" :key="length" :value="length">{{ said(length) }}</option>
          </select>
        </div>
        <p v-for="says in rest" :key="says" class="wrong" role="alert">{{ says }}</p>
        <button class="button main" type="submit">Open it</button>
      </form>
    </SheetDialog>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 6px;
  border-top: 2px solid var(--ink);
  padding-top: 12px;
}
header,
li {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: center;
  gap: 0 12px;
}
li {
  border-bottom: 1px solid var(--line);
  min-height: var(--touch);
}
.form,
.board {
  display: grid;
  gap: 14px;
}
.code {
  font-size: 44px;
  font-weight: 750;
  letter-spacing: 0.18em;
  font-variant-numeric: tabular-nums;
}
</style>
