<script setup lang="ts">
/** A plan: the answer, the cans, the steps with their amounts, to be ticked off and printed. */
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import CanRow from './CanRow.vue'
import PlanSteps from './PlanSteps.vue'

const props = defineProps<{
  plan: Schemas['Plan']
  system: string | undefined
  where: string | undefined
}>()
const KEY = 'mopsel.bench.ticks'
const key = computed(() => `${props.system ?? ''}|${props.plan.title}|${props.plan.answer}`)
const ticks = ref<string[]>([])
watch(
  key,
  () => {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? '{}') as { key?: string; ticks?: string[] }
    ticks.value = kept.key === key.value ? (kept.ticks ?? []) : []
  },
  { immediate: true },
)
watch(ticks, (now) => localStorage.setItem(KEY, JSON.stringify({ key: key.value, ticks: now })), { deep: true })
const facts = computed(() => {
  const list: { name: string; said: string; more?: string }[] = []
  const { plan } = props
  if (plan.batch_ec) list.push({ name: 'Batch', said: plan.batch_ec.said, more: plan.batch_ec.also.join(' · ') })
  if (plan.after_ec)
    list.push({ name: 'In the tank then', said: plan.after_ec.said, more: plan.after_ec.also.join(' · ') })
  if (plan.batch_ph && plan.batch_ph.said !== plan.ph?.said) list.push({ name: 'Batch pH', said: plan.batch_ph.said })
  if (plan.ph) list.push({ name: 'pH', said: plan.ph.said })
  list.push({ name: 'To carry', said: plan.in_vessel ? 'nothing: by the hose' : plan.carry.replace(' to carry', '') })
  if (plan.strength != null && plan.doses.length)
    list.push({ name: 'Of the label’s rate', said: `${Math.round(plan.strength * 100)} %` })
  return list
})
</script>

<template>
  <article class="sheet" aria-label="Plan">
    <header>
      <p class="small quiet">
        {{ plan.title }}<span v-if="where">, {{ where }}</span>
      </p>
      <h2 class="answer" aria-live="polite">{{ plan.answer }}</h2>
    </header>
    <ul v-if="plan.warnings.length" class="warnings">
      <li v-for="w in plan.warnings" :key="w"><strong>Mind:</strong> {{ w }}</li>
    </ul>
    <CanRow v-if="plan.shares.length" :shares="plan.shares" />
    <dl class="facts">
      <div v-for="fact in facts" :key="fact.name">
        <dt class="small quiet">{{ fact.name }}</dt>
        <dd class="num">{{ fact.said }}</dd>
        <dd v-if="fact.more" class="small quiet">{{ fact.more }}</dd>
      </div>
    </dl>
    <PlanSteps v-model="ticks" :plan="plan" :system="system" />
    <p class="small quiet sure">{{ plan.sure }} Labels, local rules and professionals go before what stands here.</p>
  </article>
</template>

<style scoped>
.sheet {
  display: grid;
  gap: 18px;
}
.answer {
  font-size: 26px;
  line-height: 1.25;
  letter-spacing: -0.01em;
  max-width: 30em;
  text-wrap: balance;
}
.warnings {
  display: grid;
  gap: 6px;
  padding: 10px 16px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 12px 36px;
  padding: 12px 0;
  border-block: 1px solid var(--line);
}
.facts dd.num {
  font-size: 19px;
}
@media print {
  .sheet {
    gap: 8px;
    font-size: 10pt;
    line-height: 1.3;
  }
  .answer {
    font-size: 15pt;
  }
  .facts {
    padding: 4px 0;
    gap: 4px 24px;
  }
}
</style>
