<script setup lang="ts">
/** A day of the log: what went on at each system, told from its morning on. */
import { RouterLink } from 'vue-router'
import type { Schemas } from '../api/client'
import { may } from '../door/session'
import { prose, type Day } from './asked'
import FoundText from './FoundText.vue'

defineProps<{ day: Day; words: string }>()
defineEmits<{ amend: [thread: Schemas['AcrossThread']] }>()
</script>

<template>
  <section :aria-label="day.said">
    <h2>{{ day.said }}</h2>
    <article v-for="sitting in day.sittings" :key="sitting.system" :aria-label="`${sitting.name}, ${day.said}`">
      <p class="where">
        <RouterLink :to="`/system/${sitting.system}`"><FoundText :text="sitting.name" :words="words" /></RouterLink>
        <span class="small quiet">{{ sitting.place }}</span>
      </p>
      <ol>
        <li v-for="thread in sitting.threads" :key="thread.head.id">
          <p class="small when">
            <span class="num">{{ thread.time }}</span> <FoundText :text="thread.head.by_name" :words="words" />
          </p>
          <div class="what">
            <p :class="{ withdrawn: thread.head.body.kind === 'withdrawn' }">
              <FoundText :text="prose(thread.head.lines)" :words="words" />
            </p>
            <details v-for="(old, n) in thread.earlier" :key="old.id" class="small earlier">
              <summary class="more">
                {{ thread.head.body.kind === 'withdrawn' && n === 0 ? 'Taken back' : 'Amended' }}:
                {{ (n === 0 ? thread.head : thread.earlier[n - 1]!).reason }}
              </summary>
              <p class="quiet">Before it said ({{ old.by_name }}, {{ old.when }}):</p>
              <p class="old">{{ prose(old.lines) }}</p>
            </details>
          </div>
          <button
            v-if="may('care')"
            class="button plain"
            type="button"
            :aria-label="`Amend ${sitting.name}, ${thread.time}`"
            @click="$emit('amend', thread)"
          >
            Amend
          </button>
        </li>
      </ol>
    </article>
  </section>
</template>

<style scoped>
section {
  display: grid;
}
h2 {
  padding: 14px 0 6px;
  border-bottom: 3px solid var(--water);
}
article {
  display: grid;
  grid-template-columns: 220px minmax(0, 1fr);
  gap: 4px 20px;
  padding: 10px 0;
  border-bottom: 1px solid var(--line);
}
.where {
  display: grid;
  align-content: start;
}
.where a {
  font-weight: 650;
  min-height: 28px;
}
ol {
  display: grid;
  gap: 6px;
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr) auto;
  gap: 2px 14px;
  align-items: start;
}
.when {
  display: grid;
  padding-top: 2px;
  color: var(--ink-2);
}
.what {
  max-width: 70ch;
  overflow-wrap: anywhere;
}
.button {
  min-height: var(--touch);
  margin-top: -8px;
}
.withdrawn {
  font-style: italic;
}
.old {
  text-decoration: line-through;
  color: var(--ink-2);
}
@media (max-width: 760px) {
  article {
    grid-template-columns: minmax(0, 1fr);
  }
  .where {
    display: flex;
    flex-wrap: wrap;
    gap: 0 10px;
    align-items: center;
  }
  .where a {
    display: inline-flex;
    align-items: center;
    min-height: var(--touch);
  }
  li {
    grid-template-columns: minmax(0, 1fr) auto;
  }
  .when {
    display: flex;
    gap: 8px;
    align-items: center;
  }
  .what {
    grid-column: 1 / -1;
    grid-row: 2;
  }
}
@media print {
  .button {
    display: none;
  }
  article {
    grid-template-columns: 44mm minmax(0, 1fr);
    break-inside: avoid;
  }
  h2 {
    break-after: avoid;
  }
}
</style>
