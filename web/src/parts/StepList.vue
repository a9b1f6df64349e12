<script setup lang="ts" generic="K extends string">
/** All steps of a visit or a change, beside the one at hand; on a phone only the one at hand is seen. */
defineProps<{
  label: string
  steps: { key: K; name: string; said: string; tone?: string | undefined }[]
  at: K | undefined
}>()
defineEmits<{ go: [key: K] }>()
</script>

<template>
  <nav class="steps" :aria-label="label">
    <ol>
      <li v-for="(s, i) in steps" :key="s.key">
        <button type="button" :aria-current="s.key === at ? 'step' : undefined" @click="$emit('go', s.key)">
          <span class="count num">{{ i + 1 }}</span>
          <span class="name">{{ s.name }}</span>
          <span class="small said" :class="s.tone">{{ s.said }}</span>
        </button>
      </li>
    </ol>
  </nav>
</template>

<style scoped>
button {
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
.said.act,
.said.now {
  color: var(--alarm);
  font-weight: 650;
}
.said.watch {
  color: var(--watch);
  font-weight: 650;
}
@media (max-width: 900px) {
  .steps {
    display: none;
  }
}
</style>
