<script setup lang="ts">
/** Who is recording: remembered on this device; the people of the place as a row of chips, folded once it is known. */
import { computed, ref, watch, watchEffect } from 'vue'
import { RouterLink } from 'vue-router'
import type { CardView } from '../api/client'
import RadioChips from '../controls/RadioChips.vue'
import { isSignedIn, lastName, pickRecorder, recorderAt } from './recorder'

const props = defineProps<{ place: string; people: CardView[] }>()
const here = computed(() => props.people.filter((p) => !p.archived))
const now = computed(() => here.value.find((p) => p.id === recorderAt(props.place))?.id)
const name = (card: CardView) => (card.body.card === 'person' ? card.body.name : '')
const open = ref(false)
watch(
  () => props.place,
  () => (open.value = false),
)
function pick(card: CardView) {
  pickRecorder(props.place, card.id, name(card))
  open.value = false
}
const picked = computed({
  get: () => now.value,
  set: (id) => {
    const card = here.value.find((p) => p.id === id)
    if (card) pick(card)
  },
})
const called = computed(() => here.value.find((p) => p.id === now.value))

// The only one here, or who recorded last on this device under the same name at another place.
watchEffect(() => {
  if (now.value || isSignedIn()) return
  // Two children may have the same initials.
  const adult = (p: CardView) => p.body.card === 'person' && p.body.role !== 'child'
  const same = here.value.filter((p) => adult(p) && name(p) === lastName.value)
  const one = same.length === 1 ? same[0] : here.value.length === 1 ? here.value[0] : undefined
  if (one) pick(one)
})
</script>

<template>
  <div v-if="called && !open" class="who">
    <span class="small"
      >Recording: <strong>{{ name(called) }}</strong></span
    >
    <button v-if="here.length > 1 && !isSignedIn()" class="button plain" type="button" @click="open = true">
      Someone else
    </button>
  </div>
  <div v-else-if="isSignedIn()" class="who">
    <span class="small"
      >You are not one of the people here yet. <RouterLink to="/people">Choose who you are</RouterLink></span
    >
  </div>
  <div v-else class="who">
    <span class="label">{{ called ? 'Recording:' : 'Who is recording?' }}</span>
    <RadioChips v-model="picked" label="Who is recording" :choices="here.map((p) => ({ key: p.id, name: name(p) }))" />
    <span v-if="here.length === 0" class="wrong">Add someone to this place under Set-up first.</span>
  </div>
</template>

<style scoped>
.who {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 8px;
  min-height: var(--touch);
}
</style>
