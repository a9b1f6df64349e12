<script setup lang="ts" generic="K extends string">
/** All steps of a visit or a change, beside the one at hand; on a phone behind one tap. */
import { computed, ref } from 'vue'

const props = defineProps<{
  label: string
  steps: { key: K; name: string; said: string; tone?: string | undefined }[]
  at: K | undefined
}>()
const emit = defineEmits<{ go: [key: K] }>()
const open = ref(false)
const now = computed(() => props.steps.findIndex((s) => s.key === props.at))
function go(key: K) {
  open.value = false
  emit('go', key)
}
</script>

<template>
  <nav class="steps" :class="{ open }" :aria-label="label">
    <button class="fold" type="button" :aria-expanded="open" @click="open = !open">
      <span class="small">{{ now < 0 ? 'All steps done' : `Step ${now + 1} of ${steps.length}` }}</span>
      <span class="small all">{{ open ? 'Hide the steps' : 'All steps' }}</span>
    </button>
    <ol>
      <li v-for="(s, i) in steps" :key="s.key">
        <button type="button" :aria-current="s.key === at ? 'step' : undefined" @click="go(s.key)">
          <span class="count num">{{ i + 1 }}</span>
          <span class="name">{{ s.name }}</span>
          <span class="small said" :class="s.tone">{{ s.said }}</span>
        </button>
      </li>
    </ol>
  </nav>
</template>

<style scoped>
.fold {
  display: none;
}
ol button {
  display: grid;
  grid-template-columns: 26px minmax(0, 1fr) auto;
  gap: 8px;
  align-items: baseline;
  width: 100%;
  min-height: 48px;
  padding: 8px 10px;
  border: 0;
  border-bottom: 1px solid var(--line);
  border-left: 4px solid transparent;
  background: none;
  text-align: left;
  cursor: pointer;
}
[aria-current] {
  border-left-color: var(--water);
  background: var(--water-wash);
}
.name {
  font-weight: 650;
}
.said {
  text-align: right;
  color: var(--ink-2);
}
.said.now {
  color: var(--alarm);
  font-weight: 650;
}
.said.act,
.said.watch {
  color: var(--watch);
  font-weight: 650;
}
@media (max-width: 900px) {
  .fold {
    display: flex;
    justify-content: space-between;
    align-items: center;
    width: 100%;
    min-height: var(--touch);
    padding: 0;
    border: 0;
    background: none;
    color: var(--ink-2);
    cursor: pointer;
  }
  .all {
    color: var(--water);
    text-decoration: underline;
    text-underline-offset: 3px;
  }
  .steps:not(.open) ol {
    display: none;
  }
}
</style>
