<script setup lang="ts">
/** Where a task stands: a shape and a word, with the hue only besides. */
import type { Task } from '../api/client'
import { isNow } from './rank'

defineProps<{ task: Pick<Task, 'standing' | 'urgency' | 'days_late' | 'rank'> }>()
</script>

<template>
  <span class="mark" :class="[task.urgency, task.rank]">
    <svg viewBox="0 0 14 14" width="14" height="14" aria-hidden="true">
      <path v-if="task.rank === 'people'" d="M7 0l7 13H0zM6.2 4v5h1.6V4zm0 6v1.6h1.6V10z" fill="currentColor" />
      <path v-else-if="task.standing === 'late'" d="M1 2h12L7 13z" fill="currentColor" />
      <rect v-else-if="task.standing === 'today'" x="2" y="2" width="10" height="10" fill="currentColor" />
      <rect
        v-else-if="task.standing === 'soon'"
        x="2.8"
        y="2.8"
        width="8.4"
        height="8.4"
        fill="none"
        stroke="currentColor"
        stroke-width="1.8"
      />
      <path v-else d="M1 7h12" stroke="currentColor" stroke-width="2" />
    </svg>
    <slot>
      <span v-if="isNow(task)">now</span>
      <span v-else-if="task.standing === 'late'"
        >late by {{ task.days_late }} {{ task.days_late === 1 ? 'day' : 'days' }}</span
      >
      <span v-else-if="task.standing === 'today'">due today</span>
      <span v-else>in {{ -task.days_late }} {{ task.days_late === -1 ? 'day' : 'days' }}</span>
    </slot>
  </span>
</template>

<style scoped>
.mark {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  font-weight: 600;
  color: var(--ink-2);
  white-space: nowrap;
}
.hand {
  color: var(--alarm);
}
.eye {
  color: var(--watch);
}
.people {
  padding: 1px 8px;
  color: var(--sheet);
  background: var(--alarm);
  border-radius: 3px;
}
</style>
