<script setup lang="ts">
/** A page for what one's role does not include. */
import { RouterLink } from 'vue-router'
</script>

<template>
  <section class="not">
    <h1>This is for others here</h1>
    <p>You see what stands here. Visits and changes are recorded by helpers and caretakers of the place.</p>
    <p><RouterLink class="button main" to="/">Back to the round</RouterLink></p>
  </section>
</template>

<style scoped>
.not {
  display: grid;
  gap: 14px;
  max-width: 560px;
}
</style>
