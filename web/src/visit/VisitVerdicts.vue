<script setup lang="ts">
/** Verdicts on what was typed; each can be overruled with a reason, and that is kept. */
import { computed, reactive, toRef } from 'vue'
import { RouterLink } from 'vue-router'
import type { VisitJudged, Schemas, SystemView, Verdict, Visit } from '../api/client'
import { useUnits } from '../api/units'
import DoubtList from '../parts/DoubtList.vue'
import VerdictCard from '../system/VerdictCard.vue'
import { toneClass } from '../system/toned'
import VerdictShape from '../system/VerdictShape.vue'
import { useSaid } from './doubts'

const props = defineProps<{
  verdicts: Verdict[]
  doubts: Schemas['Doubt'][]
  view: SystemView
  /** What all of the visit comes to so far. */
  judgement: VisitJudged | null
  child: boolean
  /** One line each, with the rest behind a tap. */
  lines?: boolean
}>()
/** Asked once: what is said to be so is not asked again. */
const said = useSaid()
const open_ = computed(() => props.doubts.filter((doubt) => !said.has(doubt.question)))
const visit = defineModel<Visit>({ required: true })
const units = useUnits(toRef(() => props.view.units))
/** The bench with what was just read, where hands are called for. */
function bench(verdict: Verdict) {
  if (props.child || verdict.tone === 'fine' || props.judgement?.kept) return null
  const { ph, ec } = visit.value
  const volume = props.judgement?.volume
  const level = volume == null ? {} : { from: String(units.value.toVolume(volume)) }
  const sour = !ph ? {} : ph.by === 'kit' ? { kit: String(ph.low) } : { ph: String(ph.value) }
  const strength = ec ? { ec: String(ec.value) } : {}
  const to = (query: Record<string, string | undefined>) => ({
    path: '/bench',
    query: { system: props.view.card.id, ...query },
  })
  // Where a change takes it in there is nothing to be mixed for it.
  const called = verdict.todo && ['level', 'ec', 'ph'].includes(verdict.subject)
  if (props.judgement?.together && called) return to({ for: 'put_right', ...level, ...strength, ...sour })
  const { from: litres, ...rest } = { from: undefined, ...level }
  const water = litres === undefined ? rest : { litres }
  if (verdict.subject === 'ph' && ph && verdict.todo) return to({ for: 'ph', ...water, ...sour })
  if (verdict.subject === 'ec' && ec && verdict.todo) return to({ for: 'correction', ...water, ...strength })
  if (verdict.subject === 'level') return to({ for: 'top_off', ...level, ...strength })
  return null
}
const open = reactive<Record<string, boolean>>({})
function overrule(subject: string, reason: string) {
  const now = { ...visit.value.overruled }
  if (reason.trim()) now[subject] = reason
  else delete now[subject]
  visit.value.overruled = now
}
</script>

<template>
  <div class="verdicts" aria-live="polite">
    <DoubtList :doubts="open_" @said="said.add($event)" />
    <component :is="lines ? 'details' : 'div'" v-for="verdict in verdicts" :key="verdict.subject">
      <summary v-if="lines" :class="toneClass(verdict)">
        <VerdictShape :verdict="verdict" />
        <span>{{ verdict.finding }}</span>
      </summary>
      <VerdictCard :verdict="verdict" />
      <RouterLink v-if="bench(verdict)" class="button plain" :to="bench(verdict)!">Work it out on the bench</RouterLink>
      <template v-if="verdict.tone !== 'fine' && !child && !verdict.stays && !judgement?.kept">
        <div v-if="open[verdict.subject] || visit.overruled?.[verdict.subject]" class="field over">
          <label :for="`over-${verdict.subject}`">I see it otherwise, because</label>
          <input
            :id="`over-${verdict.subject}`"
            :value="visit.overruled?.[verdict.subject] ?? ''"
            maxlength="2000"
            @input="overrule(verdict.subject, ($event.target as HTMLInputElement).value)"
          />
        </div>
        <button v-else class="button plain" type="button" @click="open[verdict.subject] = true">
          I see it otherwise
        </button>
      </template>
    </component>
  </div>
</template>

<style scoped>
.verdicts {
  display: grid;
  gap: 10px;
}
summary {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: var(--touch);
  font-weight: 650;
  color: var(--water-deep);
  line-height: 1.25;
  cursor: pointer;
}
summary::after {
  content: 'why';
  margin-left: auto;
  padding-left: 8px;
  font-weight: 400;
  text-decoration: underline;
  text-underline-offset: 3px;
}
[open] > summary::after {
  content: 'less';
}
summary.watch,
summary.act {
  color: var(--watch);
}
summary.now {
  color: var(--alarm);
}
.over {
  padding: 8px 0;
}
</style>
