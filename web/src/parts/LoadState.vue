<script setup lang="ts">
/** What stands in place of a page while it loads, and when it cannot: never "nothing recorded". */
import { computed } from 'vue'
import { ApiError } from '../api/client'

const props = defineProps<{ error: unknown }>()
defineEmits<{ again: [] }>()
const text = computed(() =>
  props.error instanceof ApiError ? props.error.message : 'Something went wrong while loading.',
)
</script>

<template>
  <div v-if="error" class="failed" role="alert">
    <p>{{ text }}</p>
    <button class="button" type="button" @click="$emit('again')">Try again</button>
  </div>
  <p v-else class="quiet" role="status">Loading…</p>
</template>

<style scoped>
.failed {
  display: grid;
  gap: 12px;
  justify-items: start;
  padding: 16px;
  border-left: 4px solid var(--alarm);
  background: var(--alarm-wash);
}
</style>
