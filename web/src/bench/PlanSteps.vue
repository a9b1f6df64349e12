<script setup lang="ts">
/** Steps in order, ticked off as they are done; amounts large, cautions where they matter, waits timed. */
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { useStartTimer } from '../parts/timers'

const props = defineProps<{ plan: Schemas['Plan']; system: string | undefined }>()
const startTimer = useStartTimer()
const ticks = defineModel<string[]>({ required: true })
/** Each step with a code that stays while the plan is worked out anew: its kind, its dose, how many of it came before. */
const steps = computed(() => {
  const seen = new Map<string, number>()
  return props.plan.steps.map((step) => {
    const kind = step.dose == null ? step.kind : `${step.kind}:${props.plan.doses[step.dose]?.product}`
    const before = seen.get(kind) ?? 0
    seen.set(kind, before + 1)
    return { ...step, code: before ? `${kind}#${before}` : kind }
  })
})
const done = (code: string) => ticks.value.includes(code)
const turn = (code: string) =>
  (ticks.value = done(code) ? ticks.value.filter((c) => c !== code) : [...ticks.value, code])
const dose = (step: Schemas['PlanStep']) => (step.dose == null ? undefined : props.plan.doses[step.dose])
/** Equal portions said once: how much, how it is measured, into which containers. */
function portions(of: Schemas['Dose']) {
  const groups: { said: string; measured: string; into: Map<string, number> }[] = []
  for (const portion of of.portions) {
    let group = groups.find((g) => g.said === portion.said && g.measured === portion.measured)
    if (!group) groups.push((group = { said: portion.said, measured: portion.measured, into: new Map() }))
    group.into.set(portion.container, (group.into.get(portion.container) ?? 0) + 1)
  }
  return groups.map((g) => ({
    ...g,
    each: [...g.into.values()].reduce((sum, n) => sum + n, 0) > 1,
    where: [...g.into].map(([name, n]) => (n > 1 ? `${name} ×${n}` : name)).join(', '),
  }))
}
</script>

<template>
  <ol class="steps" aria-label="Steps">
    <li v-for="(step, i) in steps" :key="step.code" :class="{ done: done(step.code) }">
      <label class="box">
        <input type="checkbox" :checked="done(step.code)" @change="turn(step.code)" />
        <span class="hidden">Step {{ i + 1 }} done</span>
      </label>
      <div class="body">
        <template v-if="dose(step)">
          <p class="dose">
            <strong class="num">{{ dose(step)!.said }}</strong>
            <span>{{ dose(step)!.name }}</span>
          </p>
          <ul v-if="dose(step)!.portions.length > 1" class="portions">
            <li v-for="(portion, n) in portions(dose(step)!)" :key="n">
              <span class="num">{{ portion.said }}</span>
              <span class="quiet">{{ portion.each ? 'each into the' : 'into the' }} {{ portion.where }}</span>
              <span class="small quiet">{{ portion.measured }}</span>
            </li>
          </ul>
          <p v-else class="small quiet">{{ dose(step)!.portions[0]?.measured }}</p>
          <p v-if="step.handling" class="small">{{ step.handling }}</p>
        </template>
        <p v-else>{{ step.say }}</p>
        <p v-if="step.why" class="small quiet">{{ step.why }}</p>
        <p v-if="step.caution" class="small caution"><strong>Caution.</strong> {{ step.caution }}</p>
        <button v-if="step.wait" class="button" type="button" @click="startTimer(system, step.wait)">
          Start {{ step.wait.minutes }} minutes
        </button>
      </div>
    </li>
  </ol>
</template>

<style scoped>
.steps > li {
  display: grid;
  grid-template-columns: 44px minmax(0, 1fr);
  gap: 4px;
  padding: 10px 0;
  border-bottom: 1px solid var(--line);
}
.steps > li.done > .body {
  color: var(--ink-2);
}
.done .dose strong {
  text-decoration: line-through;
  text-decoration-thickness: 2px;
}
.box {
  display: grid;
  place-items: start center;
  min-height: var(--touch);
  padding-top: 3px;
  cursor: pointer;
}
.box input {
  width: 24px;
  height: 24px;
  accent-color: var(--water);
}
.body {
  display: grid;
  gap: 3px;
  max-width: 44em;
}
.dose {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 2px 12px;
}
.dose strong {
  font-size: 24px;
  line-height: 1.2;
}
.portions li {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0 8px;
}
.portions .num {
  min-width: 5.5em;
}
.caution {
  border-left: 4px solid var(--alarm);
  padding: 4px 10px;
  background: var(--alarm-wash);
}
.caution strong {
  color: var(--alarm);
}
.button {
  justify-self: start;
  margin-top: 4px;
}
@media print {
  .steps > li {
    padding: 3px 0;
    grid-template-columns: 26px minmax(0, 1fr);
    break-inside: avoid;
  }
  .box {
    min-height: 0;
  }
  .box input {
    width: 14px;
    height: 14px;
  }
  .dose strong {
    font-size: 13pt;
  }
  .small {
    font-size: 9pt;
    line-height: 1.25;
  }
  .button {
    display: none;
  }
  .body {
    gap: 0;
  }
}
</style>
