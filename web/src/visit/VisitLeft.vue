<script setup lang="ts">
/** What was left half done on an earlier day: which day it is of is asked before anything else. */
defineProps<{ /** When it was last typed in, in words. */ on: string; /** What it says. */ lines: string[] }>()
defineEmits<{ keep: []; anew: [] }>()
</script>

<template>
  <section class="left" role="alert" aria-labelledby="left-head">
    <h2 id="left-head">You have an unsaved visit</h2>
    <p>You last typed here on {{ on }}:</p>
    <p v-if="lines.length">{{ lines.join('; ') }}</p>
    <p>Save it under that day, or look again now? Looking again clears everything but your note.</p>
    <div class="either">
      <button class="button main" type="button" @click="$emit('keep')">Keep that day</button>
      <button class="button" type="button" @click="$emit('anew')">Look again now</button>
    </div>
  </section>
</template>

<style scoped>
.left {
  display: grid;
  gap: 8px;
  padding: 12px 16px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
.either {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  margin-top: 8px;
}
</style>
