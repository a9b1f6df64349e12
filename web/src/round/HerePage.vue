<script setup lang="ts">
/** The place where one stands: all that is fine in one go, what is not fine opened one by one. */
import { computed, ref, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'
import { ApiError, newId, type Schemas } from '../api/client'
import { usePlaces, useRound } from '../api/queries'
import LoadState from '../parts/LoadState.vue'
import RecorderPick from '../parts/RecorderPick.vue'
import StandMark from '../parts/StandMark.vue'
import { notify } from '../parts/notice'
import { recorderAt } from '../parts/recorder'
import { useRecord } from '../system/record'

const route = useRoute()
const place = computed(() => String(route.params.place))
const round = useRound()
const places = usePlaces()
const { record, withdraw } = useRecord()

const name = computed(() => {
  const body = places.data.value?.find((p) => p.card.id === place.value)?.card.body
  return body && 'name' in body ? body.name : ''
})
const people = computed(() => places.data.value?.find((p) => p.card.id === place.value)?.people ?? [])
const systems = computed(() => round.data.value?.systems.filter((s) => s.place === place.value) ?? [])
const who = computed(() => people.value.find((p) => p.id === recorderAt(place.value) && !p.archived)?.id)

type System = Schemas['RoundSystem']

const ticked = ref(new Set<string>())
const looked = ref(new Set<string>())
watch(
  [place, () => systems.value.map((s) => s.id).join()],
  () => (ticked.value = new Set(systems.value.filter((s) => s.from_list === 'fine').map((s) => s.id))),
  { immediate: true },
)
const closed = (s: System) => s.from_list === 'never' || looked.value.has(s.id)
const chosen = computed(() => systems.value.filter((s) => ticked.value.has(s.id) && !closed(s)))
const next = computed(() => systems.value.find((s) => !looked.value.has(s.id)))
function turn(id: string) {
  const set = new Set(ticked.value)
  if (!set.delete(id)) set.add(id)
  ticked.value = set
}

const busy = ref(false)
const failed = ref('')
type Told = Schemas['Visit'] & { kind: 'visit' }
/** The same told of several systems: those that took it, and whether it only waits on this device. */
async function tellAll(of: System[], body: Told) {
  const by = who.value
  if (!by) return (failed.value = 'Pick who is recording first.') && null
  busy.value = true
  failed.value = ''
  const sent = of.map((s) => ({ system: s.id, name: s.name, entry: newId() }))
  const came = await Promise.allSettled(sent.map((s) => record(s.system, by, { id: s.entry, body })))
  busy.value = false
  failed.value = came
    .map((c, i) => (c.status === 'rejected' ? `${sent[i]!.name}: ${said(c.reason)}` : ''))
    .filter(Boolean)
    .join(' ')
  const kept = sent.filter((_, i) => came[i]!.status === 'fulfilled')
  const waiting = came.some((c) => c.status === 'fulfilled' && c.value === 'waiting')
  return { kept, waiting, undo: () => Promise.all(kept.map((s) => withdraw(s.system, by, s.entry))) }
}
async function allFine() {
  const told = await tellAll(chosen.value, { kind: 'visit', all_fine: true })
  if (!told?.kept.length) return
  const { kept, waiting, undo } = told
  looked.value = new Set([...looked.value, ...kept.map((s) => s.system)])
  if (waiting) return notify('Not connected. It is kept on this device, and sent as soon as it is.')
  notify(`Looked in at ${kept.map((s) => s.name).join(', ')}: all fine.`, async () => {
    await undo()
    looked.value = new Set([...looked.value].filter((id) => !kept.some((s) => s.system === id)))
  })
}
/** All that has a plug here: each is asked about until it was seen to run again. */
const plugged = computed(() => systems.value.filter((s) => s.plug))
async function cut() {
  const told = await tellAll(plugged.value, { kind: 'visit', events: [{ what: 'power_cut' }] })
  if (!told?.kept.length) return
  if (told.waiting) return notify('Not connected. It is kept on this device, and sent as soon as it is.')
  notify('Noted. See now what runs at each of them, and set the timers.', async () => void (await told.undo()))
}
const said = (error: unknown) => (error instanceof ApiError ? error.message : 'That could not be recorded.')
</script>

<template>
  <LoadState
    v-if="!round.data.value || !places.data.value"
    :error="round.error.value ?? places.error.value"
    @again="(round.refetch(), places.refetch())"
  />
  <section v-else-if="!name">
    <h1>There is no such place</h1>
    <p><RouterLink to="/">Back to the round</RouterLink></p>
  </section>
  <section v-else class="here">
    <h1>{{ name }}</h1>
    <RecorderPick :place="place" :people="people" />
    <p v-if="!systems.length" class="quiet">
      No system stands here yet. <RouterLink to="/set-up">Set one up</RouterLink>
    </p>
    <template v-else>
      <p class="quiet">Look at the plants, listen to the water, look for bubbles and leaks. Untick what is not fine.</p>
      <ul>
        <li v-for="s in systems" :key="s.id" :class="{ done: looked.has(s.id) }">
          <label>
            <input
              type="checkbox"
              :checked="looked.has(s.id) || (ticked.has(s.id) && !closed(s))"
              :disabled="closed(s)"
              @change="turn(s.id)"
            />
            <span>
              <strong>{{ s.name }}</strong>
              <span v-if="looked.has(s.id)" class="small quiet">Looked in: all fine</span>
              <span v-else-if="s.from_list_why" class="small">{{ s.from_list_why }}</span>
              <span v-else-if="s.pressing" class="small">
                {{ s.pressing.name }}<br /><StandMark :task="s.pressing">{{ s.pressing.safe }}</StandMark>
              </span>
            </span>
          </label>
          <RouterLink class="button" :to="`/system/${s.id}/visit`" :aria-label="`Visit ${s.name}`">Visit</RouterLink>
        </li>
      </ul>
      <p v-if="failed" class="wrong" role="alert">{{ failed }}</p>
      <p class="foot">
        <button v-if="chosen.length" class="button main" type="button" :disabled="busy || !who" @click="allFine">
          {{ chosen.length === 1 ? `All fine at ${chosen[0]!.name}` : `All fine at these ${chosen.length}` }}
        </button>
        <RouterLink
          v-if="next && (!chosen.length || looked.size)"
          class="button"
          :class="{ main: !chosen.length }"
          :to="`/system/${next.id}/visit`"
          >Next: {{ next.name }}</RouterLink
        >
        <RouterLink v-if="!next" class="button main" to="/">All seen here: back to the round</RouterLink>
        <button v-if="plugged.length" class="button plain" type="button" :disabled="busy || !who" @click="cut">
          The power was cut here
        </button>
      </p>
    </template>
  </section>
</template>

<style scoped>
.here {
  display: grid;
  gap: 12px;
  max-width: 720px;
}
ul {
  list-style: none;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  gap: 12px;
  min-height: 60px;
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
label {
  display: flex;
  flex: 1;
  align-items: center;
  gap: 12px;
  min-width: 0;
  min-height: var(--touch);
  cursor: pointer;
}
label > span {
  display: grid;
  min-width: 0;
  overflow-wrap: anywhere;
}
input {
  width: 24px;
  height: 24px;
  flex: none;
}
.done strong {
  font-weight: 500;
}
.foot {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
}
</style>
