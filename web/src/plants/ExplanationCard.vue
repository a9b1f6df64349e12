<script setup lang="ts">
/** What ails the plants: the answer, how sure, why, what to do, and the one look that would settle it. */
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import CauseDoing from './CauseDoing.vue'
import CauseLines from './CauseLines.vue'

const props = defineProps<{ told: Schemas['Explanation']; system: string; child: boolean }>()
const first = computed(() => props.told.causes[0])
const others = computed(() => props.told.causes.slice(1))
const known = computed(() => props.told.sure !== 'cannot_tell')
const percent = (share: number) => `${Math.round(share * 100)} %`
/** More likely than not is not yet enough to act on: the look goes first. */
const lookFirst = computed(() => props.told.sure === 'cannot_tell' || props.told.sure === 'perhaps')
const alarm = computed(() => known.value && (first.value?.within ?? 9) < 1)
</script>

<template>
  <section class="told" :class="{ alarm }" aria-label="What ails the plants" aria-live="polite">
    <p class="answer">{{ told.answer }}</p>
    <div v-if="told.next_look && lookFirst" class="look">
      <p>
        <strong>One look more:</strong> {{ told.next_look.ask }}. <span class="quiet">{{ told.next_look.tells }}</span>
      </p>
      <slot name="look" :look="told.next_look"></slot>
    </div>
    <CauseDoing v-if="first && known" :cause="first" :system="system" :child="child" :if-so="lookFirst" />
    <div v-if="told.next_look && !lookFirst" class="look">
      <p>
        <strong>One look more:</strong> {{ told.next_look.ask }}. <span class="quiet">{{ told.next_look.tells }}</span>
      </p>
      <slot name="look" :look="told.next_look"></slot>
    </div>
    <ol class="bars" aria-label="How likely each cause is">
      <li v-for="cause in told.causes" :key="cause.key">
        <span>{{ cause.name }}</span>
        <span class="num">{{ percent(cause.share) }}</span>
        <span class="bar" aria-hidden="true"><span :style="{ width: `${cause.share * 100}%` }"></span></span>
      </li>
      <li v-if="told.rest >= 0.05" class="quiet">
        <span>Something else</span>
        <span class="num">{{ percent(told.rest) }}</span>
        <span class="bar" aria-hidden="true"><span :style="{ width: `${told.rest * 100}%` }"></span></span>
      </li>
    </ol>
    <template v-if="first">
      <CauseLines v-if="known" :cause="first" />
      <details v-else>
        <summary class="more">{{ first.name }}: why, and what to do</summary>
        <CauseLines :cause="first" />
        <CauseDoing :cause="first" :system="system" :child="child" bare />
      </details>
    </template>
    <div v-if="told.besides" class="besides">
      <p class="answer">And besides: {{ told.besides.name }} ({{ percent(told.besides.share) }})</p>
      <CauseDoing :cause="told.besides" :system="system" :child="child" />
      <CauseLines :cause="told.besides" />
    </div>
    <details v-for="cause in others" :key="cause.key">
      <summary class="more">{{ cause.name }}: why, and what to do</summary>
      <CauseLines :cause="cause" />
      <CauseDoing :cause="cause" :system="system" :child="child" bare />
    </details>
  </section>
</template>

<style scoped>
.told {
  display: grid;
  gap: 10px;
  padding: 14px 16px;
  border-left: 4px solid var(--water);
  background: var(--water-wash);
}
.told.alarm {
  border-color: var(--alarm);
  background: var(--alarm-wash);
}
.answer {
  font-size: 19px;
  font-weight: 650;
  line-height: 1.25;
}
.bars {
  display: grid;
  gap: 6px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.bars li {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0 12px;
  line-height: 1.25;
}
.bar {
  grid-column: 1 / -1;
  height: 6px;
  background: var(--sheet);
  border: 1px solid var(--line);
}
.bar span {
  display: block;
  height: 100%;
  background: var(--water);
}
.quiet .bar span {
  background: var(--line-2);
}
.alarm li:first-child .bar span {
  background: var(--alarm);
}
.look {
  display: grid;
  gap: 8px;
  padding: 10px 12px;
  background: var(--sheet);
  border: 1px solid var(--line);
}
.besides {
  display: grid;
  gap: 6px;
  padding-top: 10px;
  border-top: 1px solid var(--line-2);
}
</style>
