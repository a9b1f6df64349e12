<script setup lang="ts">
/** Everything out as one archive, and an archive in. */
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '../api/client'
import { useChoices, useRefresh, useRound } from '../api/queries'
import PickList from '../controls/PickList.vue'
import { may } from '../door/session'
import { askFirst } from '../parts/ask'
import { counted, size } from './send'
import SendingBar from './SendingBar.vue'
import { useSending } from './useSending'

const choices = useChoices()
const refresh = useRefresh()
const round = useRound()
const units = ref<Schemas['UnitSystem'] | null>('metric')
const scale = ref<Schemas['EcScale'] | null>('ms_cm')
const archive = computed(() => `/api/archive?units=${units.value}&scale=${scale.value}`)

const file = ref<File | null>(null)
const { sending, share, failed, came, forget, send: start } = useSending<Schemas['BroughtView']>('An archive')
/** What is here already; until that is known, there is something. */
const some = computed(() => round.data.value?.systems.length !== 0)
/** Where in the archive it went wrong: a file and a line of it. */
const where = computed(() => {
  const [, name, line] = /^(.+\.jsonl)\.(\d+)/.exec(failed.value?.fields[0]?.field ?? '') ?? []
  return name ? `${name}, line ${line}` : ''
})

function chosen(event: Event) {
  file.value = (event.target as HTMLInputElement).files?.[0] ?? null
  forget()
}
function send() {
  if (some.value)
    askFirst({
      title: 'Add it to what is here?',
      text: 'What is in the archive is added beside what you have. Nothing here is overwritten; it cannot be taken out again in one go.',
      yes: 'Add it',
      no: 'Not now',
      then: bring,
    })
  else void bring()
}
async function bring() {
  if (!file.value || !(await start('/api/archive', 'application/zip', file.value))) return
  file.value = null
  void refresh()
}
const said = computed(() => {
  if (!came.value) return ''
  const { cards, entries, pictures, readings, there } = came.value
  const fresh = [
    entries && counted(entries, 'entry', 'entries'),
    cards && counted(cards, 'set-up record', 'set-up records'),
    readings && counted(readings, 'reading of a logger', 'readings of loggers'),
    pictures && counted(pictures, 'picture', 'pictures'),
  ].filter(Boolean)
  const old = there ? ` ${counted(there, 'was', 'were')} here already, and the same.` : ''
  return fresh.length ? `Brought in: ${fresh.join(', ')}.${old}` : `Nothing was new.${old}`
})
</script>

<template>
  <section class="data">
    <p><RouterLink class="button plain" to="/set-up">Back to set-up</RouterLink></p>
    <h1>Your data</h1>
    <section v-if="may('house')" aria-labelledby="out-head">
      <h2 id="out-head">Take everything along</h2>
      <p>
        One ZIP file of open formats: the log and all that is set up as JSON Lines with their schemas, the same as CSV
        for a spreadsheet, and the pictures.
      </p>
      <div class="row">
        <PickList v-model="units" label="Units in the CSV" :choices="choices<Schemas['UnitSystem']>('unit_system')" />
        <PickList v-model="scale" label="EC in the CSV" :choices="choices<Schemas['EcScale']>('ec_scale')" />
        <a class="button main" :href="archive" download>Download everything</a>
      </div>
      <p class="small quiet">
        The browser shows how far it is, and can cancel it. Visits half done and running timers are not in it.
      </p>
    </section>
    <section aria-labelledby="readings-head">
      <h2 id="readings-head">Bring readings in</h2>
      <p>
        From a logger or a spreadsheet, as CSV: you are shown what each column is taken for before anything is kept. A
        checklist typed in from paper goes the same way.
      </p>
      <p><RouterLink class="button" to="/data/readings">Choose a file of readings</RouterLink></p>
    </section>
    <section v-if="may('house')" aria-labelledby="in-head">
      <h2 id="in-head">Bring an archive in</h2>
      <p>
        All of it or nothing. What is here already is passed over, so the same archive twice is once; what was changed
        both here and there is told, and nothing is brought in.
      </p>
      <form class="row" aria-label="Bring an archive in" @submit.prevent="send">
        <div class="field">
          <label for="archive-file">The archive</label>
          <input id="archive-file" type="file" accept=".zip,application/zip" :disabled="!!sending" @change="chosen" />
        </div>
        <button v-if="!sending" class="button" type="submit" :disabled="!file">
          {{ file ? `Bring in ${size(file.size)}` : 'Choose a file first' }}
        </button>
        <!-- Once it is sent whole, it is brought in whether or not anybody waits for the answer. -->
        <button v-else-if="share < 1" class="button" type="button" @click="sending.cancel()">Cancel</button>
      </form>
      <SendingBar v-if="sending" :share="share" what="the archive" />
      <div v-if="failed" class="came-to failed" role="alert">
        <p>
          <strong v-if="!failed.offline">Nothing was brought in.</strong>
          {{ failed.fields[0] ? `${failed.problem.detail}` : failed.message }}
        </p>
        <p v-if="where" class="small">In {{ where }}.</p>
      </div>
      <p v-if="said" class="came-to" role="status">{{ said }} <RouterLink to="/log">See the log</RouterLink></p>
    </section>
  </section>
</template>

<style scoped>
.data,
section section {
  display: grid;
  gap: 14px;
  max-width: 760px;
}
.data {
  gap: 20px;
}
section section {
  padding-top: 10px;
  border-top: 3px solid var(--water);
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 14px;
  align-items: end;
}
.row > .field {
  flex: 1 1 200px;
  min-width: 0;
}
</style>
