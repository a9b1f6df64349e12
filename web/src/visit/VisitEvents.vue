<script setup lang="ts">
/** What else happened: sprayed, moved, brought from another system; and whether anything may go out of here. */
import { computed, ref } from 'vue'
import type { Schemas, SystemView, Visit } from '../api/client'
import { useChoices, useRound } from '../api/queries'
import ChoiceChips from '../controls/ChoiceChips.vue'
import PickList from '../controls/PickList.vue'

const props = defineProps<{ view: SystemView; child: boolean }>()
const visit = defineModel<Visit>({ required: true })
type Happened = Schemas['Happened']
const choices = useChoices()
const round = useRound()
const events = computed(() => visit.value.events ?? [])
const put = (what: Happened['what'], event: Happened | null) => {
  const others = events.value.filter((one) => one.what !== what)
  visit.value.events = event ? [...others, event] : others
}
const find = <W extends Happened['what']>(what: W) =>
  events.value.find((one) => one.what === what) as Extract<Happened, { what: W }> | undefined
const sprayed = computed({
  get: () => find('sprayed')?.with ?? null,
  set: (now: Schemas['Spray'] | null | undefined) => put('sprayed', now ? { what: 'sprayed', with: now } : null),
})
const toggle = (what: 'moved' | 'closed_off' | 'opened' | 'power_cut' | 'watered' | 'roots_reach') =>
  computed({ get: () => !!find(what), set: (on: boolean) => put(what, on ? ({ what } as Happened) : null) })
const [moved, closed, opened] = [toggle('moved'), toggle('closed_off'), toggle('opened')]
const [cut, watered, reach] = [toggle('power_cut'), toggle('watered'), toggle('roots_reach')]
/** Young plants here hang above the water, as far as is known. */
const dry = computed(() => props.view.tasks.some((task) => task.code === 'dry_roots'))
const plug = computed(() => props.view.runs.some((part) => part.key === 'plug_right'))

/** What came from another system: first what, then from where. */
const carried = ref<Schemas['Carried'] | null>(find('came_from')?.carried ?? null)
const from = ref<string | null>(find('came_from')?.system ?? null)
const others = computed(() =>
  (round.data.value?.systems ?? [])
    .filter((one) => one.id !== props.view.card.id)
    .map((one) => ({ key: one.id, name: one.name, group: one.place_name })),
)
function came() {
  const there = others.value.find((one) => one.key === from.value)
  const told = carried.value && there
  put('came_from', told ? { what: 'came_from', carried: carried.value!, system: there!.key, name: there!.name } : null)
}
const said = computed(() => events.value.length)
</script>

<template>
  <details class="events" :open="said > 0 || dry">
    <summary class="more">What else happened: sprayed, moved, a power cut, brought from another system</summary>
    <div class="part">
      <template v-if="dry || watered || reach">
        <label class="tick"><input v-model="watered" type="checkbox" /> The young plants got a drink from above</label>
        <label class="tick"><input v-model="reach" type="checkbox" /> The young plants’ roots reach the water</label>
      </template>
      <ChoiceChips v-if="!child" v-model="sprayed" label="Sprayed on the plants" :choices="choices('spray')" />
      <label class="tick"
        ><input v-model="moved" type="checkbox" /> Plants stand elsewhere, or under another light</label
      >
      <label v-if="plug" class="tick"><input v-model="cut" type="checkbox" /> The power was cut</label>
      <template v-if="others.length">
        <ChoiceChips
          v-model="carried"
          label="Came here from another system"
          :choices="choices<Schemas['Carried']>('carried')"
          @update:model-value="came"
        />
        <PickList
          v-if="carried"
          v-model="from"
          label="From which"
          :choices="others"
          none="Not picked yet"
          @update:model-value="came"
        />
      </template>
      <template v-if="!child && view.suspect_why">
        <label v-if="!view.closed_off" class="tick"
          ><input v-model="closed" type="checkbox" /> Close it off until it is sound: no plants, water or tools go
          out</label
        >
        <label v-else class="tick"><input v-model="opened" type="checkbox" /> Open it again before it is sound</label>
      </template>
    </div>
  </details>
</template>

<style scoped>
.part {
  display: grid;
  gap: 12px;
  padding-top: 8px;
}
</style>
