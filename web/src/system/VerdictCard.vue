<script setup lang="ts">
/** A verdict: what was found, why it matters, what to do, how sure. */
import type { Verdict } from '../api/client'
import BandGauge from './BandGauge.vue'
import { toneClass, toneWord } from './toned'
import VerdictShape from './VerdictShape.vue'

defineProps<{ verdict: Verdict; when?: string }>()
</script>

<template>
  <div class="verdict" :class="toneClass(verdict)">
    <p class="tone">
      <VerdictShape :verdict="verdict" />
      {{ toneWord(verdict) }}<span v-if="when" class="quiet when">{{ when }}</span>
    </p>
    <p class="finding">{{ verdict.finding }}</p>
    <BandGauge v-if="verdict.gauge" :gauge="verdict.gauge" />
    <template v-if="verdict.tone !== 'fine' || verdict.subject === 'level'">
      <p v-if="verdict.why">{{ verdict.why }}</p>
      <p class="next">{{ verdict.next }}</p>
    </template>
    <p v-if="verdict.sure" class="small quiet">{{ verdict.sure }}</p>
  </div>
</template>

<style scoped>
.verdict {
  display: grid;
  gap: 4px;
  padding: 10px 14px;
  border-left: 4px solid var(--water);
  background: var(--water-wash);
}
.watch,
.act {
  border-color: var(--watch);
  background: var(--watch-wash);
}
.now {
  border-color: var(--alarm);
  background: var(--alarm-wash);
}
.tone {
  display: flex;
  align-items: center;
  gap: 8px;
  font-weight: 650;
  color: var(--water-deep);
}
.watch .tone,
.act .tone {
  color: var(--watch);
}
.now .tone {
  color: var(--alarm);
}
.when {
  font-weight: 400;
  margin-left: auto;
}
.finding {
  font-weight: 650;
}
.next {
  font-weight: 600;
}
</style>
