<script setup lang="ts">
/** What Mopsel is made of, and under which licences: gathered by a tool, shipped with the program. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import LoadState from './LoadState.vue'

interface Part {
  kind: 'crate' | 'package' | 'typeface'
  name: string
  version: string
  licence: string
  texts: number[]
}
const query = useQuery({
  queryKey: ['notices'],
  queryFn: async () => (await (await fetch('/notices.json')).json()) as { parts: Part[]; texts: string[] },
  staleTime: Infinity,
})
const KINDS: [Part['kind'], string][] = [
  ['typeface', 'Typeface'],
  ['package', 'In the pages'],
  ['crate', 'In the program'],
]
const groups = computed(() =>
  KINDS.map(([kind, name]) => ({ name, parts: (query.data.value?.parts ?? []).filter((part) => part.kind === kind) })),
)
const opened = ref<Part>()
const texts = (part: Part) => part.texts.map((n) => query.data.value?.texts[n] ?? '')
</script>

<template>
  <LoadState v-if="!query.data.value" :error="query.error.value" @again="query.refetch()" />
  <template v-else>
    <h1>What Mopsel is made of</h1>
    <p class="quiet lead">
      Mopsel itself is licensed under Apache-2.0. It stands on the work of many others, each under its own licence.
    </p>
    <section v-for="group in groups" :key="group.name" :aria-label="group.name">
      <h2>{{ group.name }}</h2>
      <ul>
        <li v-for="part in group.parts" :key="`${part.name} ${part.version}`">
          <button
            class="button plain"
            type="button"
            :aria-expanded="opened === part"
            :disabled="!part.texts.length"
            @click="opened = opened === part ? undefined : part"
          >
            {{ part.name }}
          </button>
          <span class="small quiet num">{{ part.version }}</span>
          <span class="small">{{ part.licence }}</span>
          <pre v-for="(text, n) in opened === part ? texts(part) : []" :key="n" class="small" tabindex="0">{{
            text
          }}</pre>
        </li>
      </ul>
    </section>
  </template>
</template>

<style scoped>
.lead {
  max-width: 60ch;
  margin: 8px 0 20px;
}
section {
  margin-bottom: 24px;
}
ul {
  border-top: 1px solid var(--line);
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 12px;
  border-bottom: 1px solid var(--line);
}
.button {
  padding-left: 0;
  overflow-wrap: anywhere;
}
.button:disabled {
  opacity: 1;
  color: var(--ink);
}
pre {
  flex-basis: 100%;
  max-height: 320px;
  overflow: auto;
  white-space: pre-wrap;
  background: var(--sheet);
  border: 1px solid var(--line);
  padding: 12px;
  margin: 0 0 12px;
}
</style>
