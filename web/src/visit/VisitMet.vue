<script setup lang="ts">
/** Two devices on one visit: it was continued elsewhere, or it ended there while somebody typed on here. */
import { computed } from 'vue'
import type { useVisit } from './useVisit'

const props = defineProps<{ visit: ReturnType<typeof useVisit> }>()
const v = computed(() => props.visit)
const FIRST = {
  closed: 'This visit was saved on another device.',
  put_away: 'This visit was thrown away on another device.',
  unknown: 'The visit that was open here was saved or thrown away on another device.',
}
const late = computed(() => v.value.late.value)
</script>

<template>
  <div v-if="v.other.value" class="met" role="alert">
    <p><strong>This visit was continued on another device.</strong> Nothing was overwritten.</p>
    <p class="small"><strong>There:</strong> {{ v.other.value.lines.join('; ') || 'nothing yet' }}</p>
    <p class="small"><strong>Here:</strong> {{ v.here.value.join('; ') || 'nothing yet' }}</p>
    <button class="button" type="button" @click="v.settle(false)">Take the other</button>
    <button class="button" type="button" @click="v.settle(true)">Keep this one</button>
  </div>
  <div v-if="late" class="met" role="alert">
    <p>
      <strong>{{ FIRST[late] }}</strong>
      {{
        v.begun.value
          ? ' What you typed here was not in it. It is below: save it as a visit of its own, or throw it away.'
          : ' Everything you typed here was in it.'
      }}
    </p>
    <button v-if="v.begun.value" class="button" type="button" @click="v.drop">Throw away what I typed</button>
  </div>
</template>

<style scoped>
.met {
  padding: 12px 16px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
  margin-bottom: 16px;
  overflow-wrap: anywhere;
}
</style>
