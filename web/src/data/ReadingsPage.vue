<script setup lang="ts">
/** A file of readings: what it is taken for, what is not plain, and all of it brought in or nothing. */
import { computed, ref, shallowRef } from 'vue'
import { RouterLink } from 'vue-router'
import { ApiError, type Schemas } from '../api/client'
import { usePlaces, useRefresh } from '../api/queries'
import PickList from '../controls/PickList.vue'
import { lastPicked, pickRecorder } from '../parts/recorder'
import BadLines from './BadLines.vue'
import DeliveryList from './DeliveryList.vue'
import FileColumns from './FileColumns.vue'
import FilePreview from './FilePreview.vue'
import { counted, size } from './send'
import SendingBar from './SendingBar.vue'
import { useSending } from './useSending'

type How = Schemas['How']
type Looked = Schemas['LookedView']

const refresh = useRefresh()
const file = shallowRef<File | null>(null)
/** The file as it was mended. */
const mended = shallowRef<Blob | null>(null)
const looked = shallowRef<Looked | null>(null)
const unread = shallowRef<ApiError | null>(null)
const { sending, share, failed, came, forget, send } = useSending<Schemas['TakenView']>('A file')

/** As much of the beginning as is looked at. */
const BEGINNING = 200_000
let latest = 0
async function look(how?: How) {
  const from = mended.value ?? file.value
  if (!from) return
  const turn = ++latest
  const query = new URLSearchParams({
    cut: String(from.size > BEGINNING),
    ...(how ? { how: JSON.stringify(how) } : {}),
  })
  try {
    const answer = await fetch(`/api/readings/look?${query}`, {
      method: 'POST',
      headers: { 'Content-Type': 'text/csv', ...(lastPicked.value ? { 'Mopsel-Person': lastPicked.value } : {}) },
      body: from.slice(0, BEGINNING),
    })
    const said = (await answer.json()) as Looked & Schemas['Problem']
    // What was asked meanwhile is what counts.
    if (turn !== latest) return
    if (!answer.ok) throw new ApiError(said)
    looked.value = { ...said, asks: how ? (looked.value?.asks ?? []) : said.asks }
    unread.value = null
  } catch (error) {
    if (turn !== latest) return
    unread.value =
      error instanceof ApiError
        ? error
        : new ApiError({ detail: 'Not connected. Nothing was kept; choose it again later.' }, true)
    if (!how) looked.value = null
  }
}
function chosen(event: Event) {
  file.value = (event.target as HTMLInputElement).files?.[0] ?? null
  mended.value = null
  looked.value = null
  unread.value = null
  forget()
  void look()
}
function change(how: How) {
  if (looked.value) looked.value = { ...looked.value, how }
  forget()
  void look(how)
}
/** What still has to be said, in the words of the first thing that is missing. */
const missing = computed(() => {
  if (looked.value?.why) return looked.value.why.mend
  if (looked.value?.unknown.length) return 'Say which system each name means.'
  return who.value ? '' : 'Say who brings it in.'
})
const asks = computed(() => looked.value?.asks ?? [])

/** Those who may bring something in: what is recorded stands under their name. */
const places = usePlaces()
const adults = computed(() =>
  (places.data.value ?? []).flatMap((place) =>
    place.people.flatMap(({ id, archived, body }) =>
      !archived && body.card === 'person' && body.role !== 'child'
        ? [
            {
              key: id,
              name: body.name,
              at: place.card.id,
              group: place.card.body.card === 'place' ? place.card.body.name : '',
            },
          ]
        : [],
    ),
  ),
)
const people = computed(() => adults.value.map(({ key, name, group }) => ({ key, name, group })))
const who = computed({
  get: () => (adults.value.some((one) => one.key === lastPicked.value) ? lastPicked.value : null),
  set: (key: string | null | undefined) => {
    const one = adults.value.find((adult) => adult.key === key)
    if (one) pickRecorder(one.at, one.key, one.name)
  },
})
const id = ref('')
/** The system of which a logger's file was brought in. */
const drawn = ref<string | null>(null)
async function bring(from: Blob | null = mended.value ?? file.value) {
  if (!from || !looked.value || !file.value) return
  mended.value = from === file.value ? null : from
  // Once for each try: what was sent and not answered is the same when it is sent again.
  id.value ||= crypto.randomUUID()
  const query = new URLSearchParams({
    how: JSON.stringify(looked.value.how),
    id: id.value,
    source: file.value.name.slice(0, 200),
  })
  const { how, rows } = looked.value
  if (await send(`/api/readings/file?${query}`, 'text/csv', from)) {
    void refresh()
    // What a logger read is no entry of the log: it is drawn.
    drawn.value = how.by === 'logger' ? (rows.find((row) => row.system)?.system ?? null) : null
    file.value = null
    looked.value = null
    mended.value = null
  }
  if (!failed.value?.offline) id.value = ''
}
const bad = computed(() => failed.value?.problem.lines ?? [])
const said = computed(() => {
  if (!came.value) return ''
  const old = came.value.there ? ` ${counted(came.value.there, 'was', 'were')} here already, and the same.` : ''
  return came.value.new ? `Brought in: ${counted(came.value.new, 'line', 'lines')}.${old}` : `Nothing was new.${old}`
})
</script>

<template>
  <section class="readings">
    <p><RouterLink class="button plain" to="/data">Back to your data</RouterLink></p>
    <h1>Readings from a file</h1>
    <p>
      CSV, from a logger or a spreadsheet, of as many systems as there are. All of it is brought in or nothing, and the
      same file twice is once.
    </p>
    <PickList v-model="who" class="who" label="Who brings it in" :choices="people" />
    <div class="field">
      <label for="readings-file">The file</label>
      <input
        id="readings-file"
        :key="came ? 'again' : 'first'"
        type="file"
        accept=".csv,.tsv,.txt,text/csv"
        :disabled="!!sending"
        @change="chosen"
      />
    </div>
    <div v-if="unread" class="came-to failed" role="alert">
      <p><strong>It cannot be read.</strong> {{ unread.problem.detail ?? unread.message }}</p>
    </div>
    <template v-if="looked">
      <section aria-labelledby="taken-head">
        <h2 id="taken-head">What it is taken for</h2>
        <ul v-if="asks.length" class="asks">
          <li v-for="ask in asks" :key="ask.said" :class="{ must: ask.must }">{{ ask.said }}</li>
        </ul>
        <FileColumns :looked="looked" @change="change" />
      </section>
      <section aria-labelledby="first-head">
        <h2 id="first-head">The first lines, as they are understood</h2>
        <FilePreview :looked="looked" />
      </section>
      <p v-if="missing" class="hint" role="status">{{ missing }}</p>
      <div class="row">
        <button v-if="!sending" class="button main" type="button" :disabled="!!missing || !who" @click="bring()">
          Bring in {{ size((mended ?? file)?.size ?? 0) }}
        </button>
        <button v-else-if="share < 1" class="button" type="button" @click="sending.cancel()">Cancel</button>
      </div>
      <SendingBar v-if="sending" :share="share" what="the file" />
    </template>
    <div v-if="failed && !bad.length" class="came-to failed" role="alert">
      <p>
        <strong v-if="!failed.offline">Nothing was brought in.</strong> {{ failed.problem.detail ?? failed.message }}
      </p>
    </div>
    <BadLines
      v-if="bad.length && file && looked"
      :lines="bad"
      :file="mended ?? file"
      :name="file.name"
      :head="looked.head"
      :how="looked.how"
      :said="failed?.fields[0]?.found ?? ''"
      @mended="bring"
    />
    <p v-if="said" class="came-to" role="status">
      {{ said }}
      <RouterLink v-if="drawn" :to="`/trends/${drawn}`">See the trends</RouterLink>
      <RouterLink v-else to="/log">See the log</RouterLink>
    </p>
    <DeliveryList />
  </section>
</template>

<style scoped>
.readings,
section section {
  display: grid;
  gap: 14px;
  max-width: 960px;
}
.readings > * {
  min-width: 0;
}
.readings {
  gap: 20px;
}
section section {
  padding-top: 10px;
  border-top: 3px solid var(--water);
  grid-template-columns: minmax(0, 1fr);
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 14px;
}
.asks {
  display: grid;
  gap: 6px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.asks li,
.hint {
  padding: 8px 14px;
  border-left: 4px solid var(--line-2);
  background: var(--water-wash);
}
.asks li.must,
.hint {
  border-left-color: var(--watch);
  background: var(--watch-wash);
}
.who {
  max-width: 360px;
}
</style>
