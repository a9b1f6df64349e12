<script setup lang="ts">
/** A page for what one's role does not include. */
import { RouterLink } from 'vue-router'
</script>

<template>
  <section class="not">
    <h1>You can look at everything here</h1>
    <p>Helpers and caretakers of the place record visits and changes.</p>
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
