<script setup lang="ts">
/** What becomes of plants: moved to another system, cut for new ones, or lost. One entry, and the plantings follow it. */
import { computed, ref, watch } from 'vue'
import { ApiError, newId, type CardView, type Schemas } from '../api/client'
import { useRound, useSystem } from '../api/queries'
import PickList from '../controls/PickList.vue'
import RadioChips from '../controls/RadioChips.vue'
import RecorderPick from '../parts/RecorderPick.vue'
import WhenField from '../parts/WhenField.vue'
import { useRecording } from '../parts/useRecording'
import { useRecord } from '../system/record'
import { portsOf, sayPorts, takenBy } from './ports'

const props = defineProps<{ system: CardView; card: CardView }>()
const emit = defineEmits<{ done: [] }>()
type Planting = Extract<CardView['body'], { card: 'planting' }>
const planting = computed(() => props.card.body as Planting)
const here = useSystem(computed(() => props.system.id))
const { who, child } = useRecording(here.data)
const round = useRound()
const { recordAndSay } = useRecord()
type Kind = 'moved' | 'cut' | 'lost'
const kind = ref<Kind>('moved')
const KINDS: { key: Kind; name: string }[] = [
  { key: 'moved', name: 'Moved to another system' },
  { key: 'cut', name: 'Cut for new plants' },
  { key: 'lost', name: 'Died, or thrown away' },
]
const own = [...portsOf(planting.value.ports)]
const left = ref(own.length === 1 ? sayPorts(own) : '')
const to = ref<string | null>(null)
const others = computed(() =>
  (round.data.value?.systems ?? [])
    .filter((one) => one.id !== props.system.id && one.place === here.data.value?.place.id)
    .map((one) => ({ key: one.id, name: one.name })),
)
const target = useSystem(computed(() => to.value ?? ''))
const free = computed(() => {
  const there = target.data.value
  if (!there || there.card.id !== to.value) return []
  const taken = takenBy(there.plantings)
  return Array.from({ length: there.system.ports }, (_, n) => n + 1).filter((port) => !taken.has(port))
})
const into = ref('')
/** The first free ports, as many as come, until others are typed. */
const offered = ref('')
watch([free, left, kind], () => {
  const many = kind.value === 'cut' ? 1 : portsOf(left.value).size
  const next = sayPorts(free.value.slice(0, many))
  if (into.value === offered.value) into.value = next
  offered.value = next
})
const when = ref<string | null>(null)
const timed = ref(true)
const failed = ref('')
const busy = ref(false)
const text = () => {
  const [crop, ports] = [planting.value.crop, left.value]
  if (kind.value === 'lost') return `Written down: ${crop}, ${ports} lost.`
  return kind.value === 'cut' ? `Cuttings of ${crop} stand in ${target.data.value?.system.name}.` : `${crop} is moved.`
}
function event(): Schemas['Happened'] {
  const { crop } = planting.value
  if (kind.value === 'lost') return { what: 'lost', planting: props.card.id, crop, ports: left.value }
  const from = props.system.body.card === 'system' ? props.system.body.name : ''
  const gone = kind.value === 'moved' ? { left: left.value } : {}
  const move = { planting: props.card.id, crop, system: props.system.id, name: from, to: into.value, becomes }
  return { what: 'transplanted', ...move, ...gone }
}
/** A request that is sent again is the same move. */
const [entry, becomes] = [newId(), newId()]
async function send() {
  failed.value = ''
  if (!who.value) return (failed.value = 'Pick who is recording first.')
  if (child.value) return (failed.value = 'Fetch an adult: they write down where the plants stand now.')
  if (!timed.value) return (failed.value = 'Say when it was, or choose “Now”.')
  if (kind.value !== 'cut' && !left.value.trim()) return (failed.value = 'Say in which ports they stood.')
  if (kind.value !== 'lost' && !to.value) return (failed.value = 'Choose the system that they stand in now.')
  if (kind.value !== 'lost' && !into.value.trim()) return (failed.value = 'Say in which ports they stand now.')
  busy.value = true
  try {
    const at = kind.value === 'lost' ? props.system.id : to.value!
    const body = { kind: 'visit' as const, events: [event()] }
    await recordAndSay(at, who.value, { id: entry, body, ...(when.value ? { at: when.value } : {}) }, text())
    emit('done')
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    failed.value = error.message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <form class="form" @submit.prevent="send">
    <RadioChips v-model="kind" label="What became of it" :choices="KINDS" />
    <div class="fields">
      <div v-if="kind !== 'cut'" class="field">
        <label for="goes-left">{{ kind === 'lost' ? 'In ports' : 'Out of ports' }} (of {{ planting.ports }})</label>
        <input id="goes-left" v-model="left" autocomplete="off" />
      </div>
      <template v-if="kind !== 'lost'">
        <PickList v-model="to" label="Into the system" :choices="others" />
        <div v-if="to" class="field">
          <label for="goes-into">In its ports</label>
          <input id="goes-into" v-model="into" autocomplete="off" />
          <p class="small quiet">{{ free.length ? `Free: ${sayPorts(free)}` : 'None is free.' }}</p>
        </div>
      </template>
    </div>
    <p v-if="kind !== 'lost' && !others.length" class="quiet">
      There is no other system at this place. Set it up first.
    </p>
    <p v-if="kind === 'moved'" class="small quiet">
      Wash your hands and rinse the roots first. The plant keeps its age, and its report goes on.
    </p>
    <template v-if="here.data.value">
      <WhenField v-model="when" v-model:ready="timed" :zone="here.data.value.place_body.zone" />
      <RecorderPick :place="here.data.value.place.id" :people="here.data.value.people" />
    </template>
    <p v-if="failed" class="wrong" role="alert">{{ failed }}</p>
    <button class="button main" type="submit" :disabled="busy">Write it down</button>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 16px;
}
</style>
