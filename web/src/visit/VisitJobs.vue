<script setup lang="ts">
/** The other checks of this system, those that are due first. */
import { computed, defineAsyncComponent, ref } from 'vue'
import type { Refusal, Schemas, SystemView, Task, Visit } from '../api/client'
import { useChoices, useKnowledge } from '../api/queries'
import StandMark from '../parts/StandMark.vue'
import { canPutOff, dayName } from '../system/putOff'
import HandSteps from './HandSteps.vue'
import VisitEvents from './VisitEvents.vue'
import ChoiceChips from '../controls/ChoiceChips.vue'
import VisitHarvest from './VisitHarvest.vue'
import VisitLamp from './VisitLamp.vue'

const PutOffSheet = defineAsyncComponent(() => import('../system/PutOffSheet.vue'))
const props = defineProps<{ view: SystemView; child: boolean; faults: Refusal[] }>()
const visit = defineModel<Visit>({ required: true })
const { data: knowledge } = useKnowledge()
const jobs = computed(() =>
  [...props.view.tasks, ...props.view.apart].filter(
    (t) => t.check && t.one_tap && t.check !== 'look_in' && t.check !== 'harvest',
  ),
)
const done = computed(() => visit.value.done ?? [])
const doing = (check: Schemas['Check']) => knowledge.value?.checks.find((c) => c.key === check)?.doing
const rules = computed(() => props.view.tasks.filter((task) => task.rule))
const followed = computed(() => visit.value.rules ?? [])
const turnRule = (rule: string, name: string) =>
  (visit.value.rules = followed.value.some((one) => one.rule === rule)
    ? followed.value.filter((one) => one.rule !== rule)
    : [...followed.value, { rule, name }])
/** Equipment that is serviced: what one tap says of it is told by the core. */
const pieces = computed(() => props.view.tasks.filter((task) => task.sound?.serviced?.length))
const pieceOf = (job: Task) => job.sound?.serviced?.[0]
const serviced = computed(() => visit.value.serviced ?? [])
function turnPiece(job: Task) {
  const piece = pieceOf(job)!
  const others = serviced.value.filter((one) => one.equipment !== piece.equipment)
  visit.value.serviced = others.length < serviced.value.length ? others : [...others, piece]
}
function turnJob(job: Task) {
  if (job.rule) turnRule(job.rule, job.name)
  else if (pieceOf(job)) turnPiece(job)
  else turn(job.check!)
}
const dueFirst = (a: Task, b: Task) => Number(b.days_late >= 0) - Number(a.days_late >= 0)
/** What is done on another day, or not this time, in the same entry. */
const putting = ref<Task>()
const off = ref(false)
const codeOf = (one: Schemas['PutOff']) => (one.chore.of === 'rule' ? `rule.${one.chore.rule}` : one.chore.check)
const putOff = (job: Task) => visit.value.put_off?.find((one) => codeOf(one) === job.code)
const others = (code: string) => (visit.value.put_off ?? []).filter((one) => codeOf(one) !== code)
const takeBack = (code: string) => (visit.value.put_off = others(code))
const keep = (moved: Schemas['PutOff'][]) => {
  for (const one of moved) visit.value.put_off = [...others(codeOf(one)), one]
}
const isDone = (job: Task) =>
  job.rule
    ? followed.value.some((one) => one.rule === job.rule)
    : pieceOf(job)
      ? serviced.value.some((one) => one.equipment === pieceOf(job)!.equipment)
      : done.value.includes(job.check!)
function notToday(job: Task) {
  putting.value = job
  off.value = true
}
const offSaid = (one: Schemas['PutOff']) =>
  one.how === 'skipped' ? 'Skipped this time' : `Moved to ${dayName(one.to)}`
/** Its steps, where they can be done by whoever is here, and are more than the job's own sentence. */
const handsOf = (job: Task) => props.view.hands.find((one) => one.check === job.check && one.steps.length > 1)
const turn = (check: Schemas['Check']) => {
  visit.value.done = done.value.includes(check) ? done.value.filter((c) => c !== check) : [...done.value, check]
  if (check === 'filters' && !visit.value.done.includes(check)) visit.value.meshes = null
}
const choices = useChoices()
</script>

<template>
  <ul>
    <li v-for="job in [...jobs, ...pieces, ...rules].sort(dueFirst)" :key="job.code" class="job">
      <div class="row">
        <label :class="{ off: child && job.adult }">
          <input
            type="checkbox"
            :disabled="(child && job.adult) || !!putOff(job)"
            :checked="isDone(job)"
            @change="turnJob(job)"
          />
          <span>
            <strong>{{ job.name }}</strong>
            <template v-if="putOff(job)"
              >&nbsp;<span class="small">{{ offSaid(putOff(job)!) }}</span></template
            >
            <template v-else>&nbsp;<StandMark class="small" :task="job" /></template>
            <span class="quiet small doing">{{
              child && job.adult
                ? job.rule
                  ? 'For an adult.'
                  : 'For an adult: it means mains current.'
                : job.rule
                  ? job.reason
                  : job.doing || doing(job.check!)
            }}</span>
          </span>
        </label>
        <button
          v-if="putOff(job)"
          class="button plain"
          type="button"
          :aria-label="`${job.name}: take that back`"
          @click="takeBack(job.code)"
        >
          Take back
        </button>
        <button
          v-else-if="canPutOff(job) && !isDone(job)"
          class="button plain"
          type="button"
          :aria-label="`${job.name}: not today`"
          @click="notToday(job)"
        >
          Not today
        </button>
      </div>
      <ChoiceChips
        v-if="job.check === 'filters' && isDone(job)"
        v-model="visit.meshes"
        label="What was in the meshes?"
        :choices="choices<Schemas['Meshes']>('meshes')"
      />
      <details v-if="handsOf(job)" class="how" :open="job.days_late >= 0 && !putOff(job) && !isDone(job)">
        <summary class="more" :aria-label="`${job.name}: how it goes`">How it goes</summary>
        <HandSteps
          :of="handsOf(job)!"
          :name="job.name"
          :system="view.card.id"
          :today="view.today"
          :done="isDone(job)"
          @all="isDone(job) || turn(job.check!)"
        />
      </details>
      <VisitLamp v-if="job.check === 'light'" v-model="visit" bare :view="view" :faults="faults" />
    </li>
    <li v-if="view.lamp && !jobs.some((job) => job.check === 'light')">
      <p class="label">The lamp</p>
      <VisitLamp v-model="visit" :view="view" :faults="faults" />
    </li>
  </ul>
  <p v-if="jobs.length + pieces.length + rules.length === 0" class="quiet">No other checks on this system.</p>
  <PutOffSheet
    v-if="putting"
    v-model:open="off"
    :system="view.card.id"
    :place="view.place.id"
    :today="view.today"
    :task="putting"
    @chosen="keep"
  />
  <VisitHarvest v-model="visit" :view="view" :faults="faults" />
  <VisitEvents v-model="visit" :view="view" :child="child" />
</template>

<style scoped>
.job {
  border-bottom: 1px solid var(--line);
}
.row {
  display: flex;
  align-items: center;
  gap: 8px;
}
.row label {
  flex: 1;
  border-bottom: 0;
}
.row .button {
  flex: none;
}
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
.how {
  padding: 0 0 8px 40px;
}
</style>
