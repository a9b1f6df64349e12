<script setup lang="ts">
/** What sort of change it will be, before it begins; the steps follow from it and from what the system has. */
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import type { Schemas, SystemView } from '../api/client'
import { useChoices } from '../api/queries'
import type { Units } from '../api/units'
import ChoiceChips from '../controls/ChoiceChips.vue'
import type { Changing } from './useChange'

const props = defineProps<{ change: Changing; view: SystemView; units: Units }>()
const emit = defineEmits<{ begun: [] }>()
const parts = computed(() => props.change.run.value.parts ?? {})
const small = computed(() => !props.view.system.traits.circulates && !props.view.system.traits.aerated)
const guide = computed(() => props.change.guide.value!)
const choices = useChoices()
const extent = computed({
  get: () => props.change.run.value.extent,
  set: (extent) => extent && props.change.put({ extent }),
})
/** A treatment takes all of the water. */
const extents = computed(() =>
  choices<Schemas['ChangeExtent']>('extent').map((one) => ({
    ...one,
    off: !!parts.value.treats && one.key === 'partial',
  })),
)
const first = computed(() => parts.value.first === true)
/** The ways to come by the fresh water here; the usual one is chosen. */
const places = computed(() => {
  const here = guide.value.places
  const named = choices<Schemas['MixedIn']>('mixed_in')
  return named.flatMap((one) =>
    here.filter((p) => p.key === one.key).map((p) => ({ ...one, off: p.off, note: p.note })),
  )
})
const notes = computed(() => places.value.filter((p) => p.note).map((p) => `${p.name}: ${p.note}`))
const mixed = computed({
  get: () => parts.value.mixed ?? guide.value.mixed,
  set: (mixed) => mixed && props.change.parts({ mixed }),
})
const busy = ref(false)
// A task leads here with what it wants; it can be changed before it begins. A first filling is only that while
// it stands among the tasks.
const as = useRoute().query.as
const wants =
  as === 'treat' || as === 'reset'
    ? { [as === 'treat' ? 'treats' : 'reset']: true }
    : as === 'first' && props.view.tasks.some((task) => task.code === 'first_fill')
      ? { first: true }
      : null
if (wants && !props.change.begun.value) props.change.parts(wants)
else if (props.view.system.refill === 'whole_swap' && !props.change.begun.value) props.change.parts({ swap: true })
/** All of the water goes with it: what stays behind brings the rot back. */
function treat(treats: boolean) {
  props.change.put({ ...(treats ? { extent: 'full' as const } : {}), parts: { ...parts.value, treats } })
}
async function begin() {
  busy.value = true
  const kept = props.change.begin()
  emit('begun')
  await kept
  busy.value = false
}
</script>

<template>
  <section class="start" aria-labelledby="start-head">
    <h2 id="start-head">{{ first ? 'The first filling' : 'What sort of change?' }}</h2>
    <p v-if="first" class="quiet">The vessel is empty, and no root hangs in it yet.</p>
    <template v-if="!first">
      <ChoiceChips v-model="extent" label="How much" :choices="extents" silent keep />
      <label class="tick"
        ><input
          type="checkbox"
          :checked="parts.reset ?? false"
          @change="change.parts({ reset: ($event.target as HTMLInputElement).checked })"
        />
        A full reset: everything out, sanitised, dried (after a crop or a disease)</label
      >
      <label class="tick"
        ><input
          type="checkbox"
          :checked="parts.treats ?? false"
          @change="treat(($event.target as HTMLInputElement).checked)"
        />
        Treat the roots too: a peroxide bath for them, a dose into the fresh water</label
      >
      <label v-if="small" class="tick"
        ><input
          type="checkbox"
          :checked="parts.swap ?? false"
          @change="change.parts({ swap: ($event.target as HTMLInputElement).checked, mixed: null })"
        />
        Swap: a second, clean vessel takes lid and plants over in half a minute</label
      >
    </template>
    <div v-if="places.length > 1">
      <ChoiceChips v-model="mixed" label="Where does the fresh water come from?" :choices="places" keep />
      <p v-if="change.fault('parts.mixed')" class="wrong" role="alert">{{ change.fault('parts.mixed') }}</p>
      <p v-for="note in notes" :key="note" class="small quiet note">{{ note }}</p>
    </div>
    <div>
      <p>
        <strong>{{ guide.steps.length }} steps</strong
        ><template v-if="guide.fill_to != null"
          >, filled to <strong class="num">{{ units.toVolume(guide.fill_to) }} {{ units.volume }}</strong></template
        >.
      </p>
      <p v-if="guide.fill_reason" class="small quiet">{{ guide.fill_reason }}</p>
    </div>
    <ol class="list">
      <li v-for="s in guide.steps" :key="s.step">{{ s.name }}</li>
    </ol>
    <p v-if="change.failed.value" class="wrong" role="alert">{{ change.failed.value }}</p>
    <button class="button main" type="button" :disabled="busy" @click="begin">
      {{ first ? 'Begin to fill' : 'Begin the change' }}
    </button>
  </section>
</template>

<style scoped>
.start {
  display: grid;
  gap: 14px;
  max-width: 640px;
}
.list {
  columns: 2;
  column-gap: 32px;
  list-style: decimal;
  padding-left: 24px;
  color: var(--ink-2);
}
.note {
  margin-top: 6px;
}
.button {
  justify-self: start;
  min-height: 52px;
}
@media (max-width: 600px) {
  .list {
    columns: 1;
  }
  .button {
    justify-self: stretch;
  }
}
</style>
