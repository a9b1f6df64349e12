<script setup lang="ts">
/** "Who is here?": the people of the place as a row of chips. */
import { computed, watchEffect } from 'vue'
import type { CardView } from '../api/client'
import { pickRecorder, recorderAt } from './recorder'

const props = defineProps<{ place: string; people: CardView[] }>()
const here = computed(() => props.people.filter((p) => !p.archived))
const now = computed(() => here.value.find((p) => p.id === recorderAt(props.place))?.id)
const name = (card: CardView) => (card.body.card === 'person' ? card.body.name : '')

watchEffect(() => {
  if (!now.value && here.value.length === 1 && here.value[0]) pickRecorder(props.place, here.value[0].id)
})
</script>

<template>
  <div class="who" role="radiogroup" aria-label="Who is recording">
    <span class="label">Recording:</span>
    <button
      v-for="person in here"
      :key="person.id"
      class="chip"
      type="button"
      role="radio"
      :aria-checked="person.id === now"
      @click="pickRecorder(place, person.id)"
    >
      {{ name(person) }}
    </button>
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
