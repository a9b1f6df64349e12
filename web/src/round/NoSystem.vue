<script setup lang="ts">
/** A round without a system. A place may be there before its first system is. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { usePlaces } from '../api/queries'

const places = usePlaces()
const place = computed(() => {
  const body = places.data.value?.find(({ card }) => !card.archived)?.card.body
  return body?.card === 'place' ? body.name : ''
})
</script>

<template>
  <template v-if="place">
    <h1>No systems yet</h1>
    <p>{{ place }} is set up. Add its first system, and Mopsel says what to do there, when, and why.</p>
  </template>
  <template v-else>
    <h1>Nothing is set up yet</h1>
    <p>Tell Mopsel about the first place and the first system, and it says what to do there, when, and why.</p>
  </template>
  <RouterLink class="button main" to="/set-up">Set up the first system</RouterLink>
</template>
