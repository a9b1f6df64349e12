<script setup lang="ts">
/** Cases at a system: how each stands, its looks so far and those still planned; closed ones as short stories. */
import { computed } from 'vue'
import type { SystemView } from '../api/client'

const props = defineProps<{ view: SystemView }>()
const open = computed(() => props.view.cases.filter((one) => one.open))
const closed = computed(() => props.view.cases.filter((one) => !one.open))
</script>

<template>
  <div class="cases">
    <article v-for="one in open" :key="one.key" class="case">
      <h3>
        {{ one.name }}<span v-if="one.ports" class="quiet">, ports {{ one.ports }}</span>
      </h3>
      <p class="state">{{ one.state }}</p>
      <ol class="line" aria-label="Its looks">
        <li v-for="look in one.looks" :key="look.when + look.said" class="been">
          <span class="dot" aria-hidden="true"></span>{{ look.said }} <span class="quiet">{{ look.when }}</span>
        </li>
        <li v-for="on in one.planned" :key="on" class="quiet">
          <span class="dot" aria-hidden="true"></span>look again {{ on }}
        </li>
      </ol>
      <p class="small quiet">{{ one.rule }}</p>
      <p v-if="one.learnt" class="small">Learnt: {{ one.learnt }}</p>
    </article>
    <details v-if="closed.length">
      <summary class="more">{{ closed.length === 1 ? 'One closed case' : `${closed.length} closed cases` }}</summary>
      <article v-for="one in closed" :key="one.key + one.state" class="case past">
        <h3>
          {{ one.name }}<span v-if="one.ports" class="quiet">, ports {{ one.ports }}</span>
        </h3>
        <p>{{ one.state }}</p>
        <p class="small quiet">{{ one.looks.map((look) => `${look.when}: ${look.said}`).join('; ') }}</p>
        <p v-if="one.learnt" class="small">Learnt: {{ one.learnt }}</p>
      </article>
    </details>
  </div>
</template>

<style scoped>
.cases,
.case {
  display: grid;
  gap: 8px;
}
.case {
  padding: 12px 16px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
.past {
  border-color: var(--line-2);
  background: var(--sheet);
  margin-bottom: 8px;
}
h3 {
  margin: 0;
  font-size: 17px;
}
h3 .quiet {
  font-weight: 400;
}
.state {
  font-weight: 600;
}
.line {
  display: grid;
  gap: 4px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.line li {
  display: flex;
  align-items: baseline;
  gap: 8px;
}
.dot {
  flex: none;
  width: 10px;
  height: 10px;
  border: 2px solid var(--watch);
  border-radius: 50%;
}
.been .dot {
  background: var(--watch);
}
</style>
