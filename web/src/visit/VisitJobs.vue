<script setup lang="ts">
/** The other checks of this system, those that are due first. */
import { computed } from 'vue'
import type { Refusal, Schemas, SystemView, Visit } from '../api/client'
import { useKnowledge } from '../api/queries'
import StandMark from '../parts/StandMark.vue'
import VisitEvents from './VisitEvents.vue'
import VisitHarvest from './VisitHarvest.vue'
import VisitLamp from './VisitLamp.vue'

const props = defineProps<{ view: SystemView; child: boolean; faults: Refusal[] }>()
const visit = defineModel<Visit>({ required: true })
const { data: knowledge } = useKnowledge()
const jobs = computed(() =>
  props.view.tasks.filter((t) => t.check && t.one_tap && t.check !== 'look_in' && t.check !== 'harvest'),
)
const done = computed(() => visit.value.done ?? [])
const doing = (check: Schemas['Check']) => knowledge.value?.checks.find((c) => c.key === check)?.doing
const rules = computed(() => props.view.tasks.filter((task) => task.rule))
const followed = computed(() => visit.value.rules ?? [])
const turnRule = (rule: string, name: string) =>
  (visit.value.rules = followed.value.some((one) => one.rule === rule)
    ? followed.value.filter((one) => one.rule !== rule)
    : [...followed.value, { rule, name }])
const turn = (check: Schemas['Check']) =>
  (visit.value.done = done.value.includes(check) ? done.value.filter((c) => c !== check) : [...done.value, check])
</script>

<template>
  <ul>
    <li v-for="job in jobs" :key="job.code">
      <label :class="{ off: child && job.adult }">
        <input
          type="checkbox"
          :disabled="child && job.adult"
          :checked="done.includes(job.check!)"
          @change="turn(job.check!)"
        />
        <span>
          <strong>{{ job.name }}</strong> <StandMark class="small" :task="job" />
          <span class="quiet small doing">{{
            child && job.adult ? 'For an adult: it means mains current.' : job.doing || doing(job.check!)
          }}</span>
        </span>
      </label>
      <VisitLamp v-if="job.check === 'light'" v-model="visit" bare :view="view" :faults="faults" />
    </li>
    <li v-for="job in rules" :key="job.code">
      <label :class="{ off: child && job.adult }">
        <input
          type="checkbox"
          :disabled="child && job.adult"
          :checked="followed.some((one) => one.rule === job.rule)"
          @change="turnRule(job.rule!, job.name)"
        />
        <span>
          <strong>{{ job.name }}</strong> <StandMark class="small" :task="job" />
          <span class="quiet small doing">{{ child && job.adult ? 'For an adult.' : job.reason }}</span>
        </span>
      </label>
    </li>
    <li v-if="view.lamp && !jobs.some((job) => job.check === 'light')">
      <p class="label">The lamp</p>
      <VisitLamp v-model="visit" :view="view" :faults="faults" />
    </li>
  </ul>
  <p v-if="jobs.length === 0 && rules.length === 0" class="quiet">No other checks on this system.</p>
  <VisitHarvest v-model="visit" :view="view" :faults="faults" />
  <VisitEvents v-model="visit" :view="view" :child="child" />
</template>

<style scoped>
label {
  display: grid;
  grid-template-columns: 28px 1fr;
  gap: 12px;
  padding: 10px 0;
  min-height: var(--touch);
  border-bottom: 1px solid var(--line);
  cursor: pointer;
}
input {
  width: 24px;
  height: 24px;
  margin: 0;
}
.doing {
  display: block;
}
</style>
