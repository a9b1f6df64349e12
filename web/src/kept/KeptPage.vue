<script setup lang="ts">
/** What was kept on this device and came back refused: mended, sent again, copied, or set aside by hand. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api, as, ask, newId } from '../api/client'
import { usePlaces, useRefresh } from '../api/queries'
import { notify } from '../parts/notice'
import { dayAndTime } from '../parts/placeTime'
import { recorderAt } from '../parts/recorder'
import { write, type Writes } from '../writes/queue'
import { keepRefused, letGo, refused, type Refused } from '../writes/refused'
import { amends, asVisit, savedAt, typedOf } from './kept'

const router = useRouter()
const client = useQueryClient()
const refresh = useRefresh()
const places = usePlaces()
const sending = ref('')
const systems = computed(() =>
  (places.data.value ?? []).flatMap((place) => place.systems.map((at) => ({ at, place: place.card }))),
)
const systemOf = (one: Refused) => systems.value.find(({ at }) => at.id === one.write.system)
const shown = computed(() =>
  refused.value.map((one) => {
    const found = systemOf(one)
    const where = found && 'name' in found.at.body ? found.at.body.name : ''
    return { one, where, there: !!found, lines: typedOf(one), visit: asVisit(one), saved: dayAndTime(savedAt(one)) }
  }),
)

async function sendAgain(one: Refused) {
  sending.value = one.key
  try {
    await write(client, one.kind as keyof Writes, one.write as never)
    letGo(one.key)
    notify('Saved.')
    await refresh()
  } catch (error) {
    // Why it is refused now is kept with it, and shown below.
    keepRefused(one.key, one.kind, one.write, error)
    notify('It still could not be saved.')
  } finally {
    sending.value = ''
  }
}
/** What was typed is laid into a new visit of whoever records now; it keeps its day. */
async function intoVisit(one: Refused) {
  const found = systemOf(one)
  const doc = asVisit(one)
  if (!found || !doc) return
  const by = recorderAt(found.place.id) ?? one.write.by
  const at = `mopsel.visit.${one.write.system}.${by}`
  // Two looks of two days are not put together: a visit that is half done there comes first.
  const params = { path: { id: one.write.system }, header: as(by) }
  const own = localStorage.getItem(at)
  let half = own ? (JSON.parse(own) as { id: string }) : null
  try {
    half ??= (await ask(api.GET('/api/systems/{id}/draft', { params }))).draft ?? null
  } catch {
    return notify('Not connected. Try again when there is a connection.')
  }
  // What is left of the refused one itself is that very visit.
  if (half && half.id !== one.key) return notify('You have an unsaved visit there. Save it or throw it away first.')
  const id = newId()
  const kept = { id, version: 0, base: null, sent: null, doc, at: savedAt(one) }
  localStorage.setItem(at, JSON.stringify(kept))
  localStorage.setItem(`mopsel.when.${id}`, savedAt(one))
  letGo(one.key)
  await router.push(`/system/${one.write.system}/visit`)
}
async function copy(one: Refused, lines: string[]) {
  try {
    await navigator.clipboard.writeText([dayAndTime(savedAt(one)), ...lines].join('\n'))
    notify('Copied.')
  } catch {
    notify('This browser does not let a page copy. Select the text and copy it by hand.')
  }
}
function aside(one: Refused) {
  const back = letGo(one.key)
  notify('Deleted from this device.', async () => back())
}
</script>

<template>
  <h1>Not saved</h1>
  <p v-if="!shown.length" class="quiet">Everything that was kept on this device has been saved.</p>
  <template v-else>
    <p class="about">You entered this without a connection. It could not be saved later, and is only on this device.</p>
    <article v-for="{ one, where, there, lines, visit, saved } in shown" :key="one.key" class="kept">
      <h2>{{ where || 'Your set-up' }}</h2>
      <p class="small quiet">Entered {{ saved }}</p>
      <ul>
        <li v-for="line in lines" :key="line">{{ line }}</li>
      </ul>
      <p class="wrong">{{ one.why }}</p>
      <div class="row">
        <button v-if="visit && there" class="button main" type="button" @click="intoVisit(one)">
          Put it in a new visit
        </button>
        <RouterLink
          v-if="(amends(one) || one.kind === 'run') && there"
          class="button main"
          :to="{ path: '/log', query: { system: one.write.system } }"
          >Find the entry in the log</RouterLink
        >
        <RouterLink
          v-else-if="one.kind === 'finish' && there"
          class="button main"
          :to="`/system/${one.write.system}/change`"
          >Go on with the change</RouterLink
        >
        <button
          v-if="one.kind !== 'run'"
          class="button"
          type="button"
          :disabled="sending === one.key"
          @click="sendAgain(one)"
        >
          Try again
        </button>
        <button class="button" type="button" @click="copy(one, lines)">Copy the text</button>
        <button class="button" type="button" @click="aside(one)">Delete it</button>
      </div>
    </article>
  </template>
</template>

<style scoped>
h1 {
  margin-bottom: 8px;
}
.about {
  max-width: 60ch;
  margin-bottom: 20px;
}
.kept {
  display: grid;
  gap: 10px;
  max-width: 720px;
  padding: 16px 0;
  border-top: 1px solid var(--line);
  overflow-wrap: anywhere;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.row .button {
  min-height: 48px;
}
</style>
