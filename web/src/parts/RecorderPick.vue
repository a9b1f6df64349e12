<script setup lang="ts">
/** "Who is here?": the people of the place as a row of chips. */
import { computed, watchEffect } from 'vue'
import type { CardView } from '../api/client'
import RadioChips from '../controls/RadioChips.vue'
import { pickRecorder, recorderAt } from './recorder'

const props = defineProps<{ place: string; people: CardView[] }>()
const here = computed(() => props.people.filter((p) => !p.archived))
const now = computed(() => here.value.find((p) => p.id === recorderAt(props.place))?.id)
const picked = computed({ get: () => now.value, set: (id) => id && pickRecorder(props.place, id) })
const name = (card: CardView) => (card.body.card === 'person' ? card.body.name : '')

watchEffect(() => {
  if (!now.value && here.value.length === 1 && here.value[0]) pickRecorder(props.place, here.value[0].id)
})
</script>

<template>
  <div class="who">
    <span class="label">Recording:</span>
    <RadioChips v-model="picked" label="Who is recording" :choices="here.map((p) => ({ key: p.id, name: name(p) }))" />
    <span v-if="here.length === 0" class="wrong">Add someone to this place under Set-up first.</span>
  </div>
</template>

<style scoped>
.who {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
</style>
