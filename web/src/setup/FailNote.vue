<script setup lang="ts">
/** What was refused, and where two versions met, the one that stands. */
import type { CardView } from '../api/client'

defineProps<{ failed: string; current: CardView | null }>()
</script>

<template>
  <div v-if="failed" class="wrong" role="alert">
    <p>{{ failed }}</p>
    <p v-if="current" class="both">
      What stands there now (version {{ current.version }}): {{ JSON.stringify(current.body) }}. Close this form and
      open it again to go on from there.
    </p>
  </div>
</template>

<style scoped>
.both {
  overflow-wrap: anywhere;
}
</style>
