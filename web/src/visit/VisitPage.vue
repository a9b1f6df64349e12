<script setup lang="ts">
/** A visit: one step a screen on a phone, all steps beside the one at hand on a desk. */
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ApiError, type Schemas } from '../api/client'
import { useSystem } from '../api/queries'
import LoadState from '../parts/LoadState.vue'
import StepList from '../parts/StepList.vue'
import { askFirst } from '../parts/ask'
import { useRecording } from '../parts/useRecording'
import { useRouteId } from '../parts/routeId'
import { useShortcuts } from '../parts/shortcuts'
import WhenField from '../parts/WhenField.vue'
import { useRecord } from '../system/record'
import HandsShown from './HandsShown.vue'
import VisitClose from './VisitClose.vue'
import VisitHead from './VisitHead.vue'
import VisitGlass from './VisitGlass.vue'
import VisitJobs from './VisitJobs.vue'
import VisitLeft from './VisitLeft.vue'
import VisitLevel from './VisitLevel.vue'
import VisitLook from './VisitLook.vue'
import VisitMet from './VisitMet.vue'
import VisitMeasures from './VisitMeasures.vue'
import VisitRoots from './VisitRoots.vue'
import VisitSupply from './VisitSupply.vue'
import VisitTopOff from './VisitTopOff.vue'
import VisitNumbers from './VisitNumbers.vue'
import VisitVerdicts from './VisitVerdicts.vue'
import { atTop } from '../parts/atTop'
import { stillThere } from './aside'
import { provideSaid } from './doubts'
import { forgetHands } from './hands'
import { useNext, visited } from './next'
import { useFine } from './useFine'
import { useTabled } from './tabled'
import { useTook } from './took'
import { standsAt, stepsOf, type StepKey } from './steps'
import { useVisit } from './useVisit'
import { endingOf } from '../writes/keeper'
import { useWhen } from './useWhen'

const router = useRouter()
const { recordAndSay } = useRecord()
const id = useRouteId()
const query = useSystem(id)
const view = computed(() => query.data.value)
const { who, child } = useRecording(view)
const v = useVisit(id, who, { tabled: useTabled(id, who, child) })
/** All numbers on one screen, unless the steps one by one are wanted on this device. */
const WAY = 'mopsel.visit'
const oneScreen = ref(localStorage.getItem(WAY) !== 'steps')
const steps = computed(() => (view.value ? stepsOf(view.value, v.visit, v.judgement.value, oneScreen.value) : []))
const listed = computed(() => steps.value.map((s) => ({ ...s, said: s.said || (s.due ? 'due' : '') })))
const route = useRoute()
/** The step stands in the address, so that Back goes one step back. */
const asked = computed<StepKey>(() => {
  const key = route.query.step
  return typeof key === 'string' ? (key as StepKey) : oneScreen.value ? 'numbers' : 'look'
})
const at = computed(() => standsAt(asked.value, oneScreen.value))
const index = computed(() =>
  Math.max(
    0,
    steps.value.findIndex((s) => s.key === at.value),
  ),
)
const step = computed(() => steps.value[index.value])
const subjects = computed(() => step.value?.subjects ?? [])
/** What is explained at length beside the signs is not said again below them. */
const verdictsHere = computed(() =>
  (v.judgement.value?.verdicts ?? []).filter(
    ({ subject }) =>
      at.value === 'close' ||
      (subjects.value.includes(subject) && !(subject === 'plants' && v.judgement.value?.explanation)),
  ),
)
const { when, leftOn, keepDay } = useWhen(v, () => view.value?.place_body.zone)
const { took, begin } = useTook()
const timed = ref(true)
const said = provideSaid()
/** What is more likely a slip and was not said to be so. */
const doubts = computed(() => (v.judgement.value?.doubts ?? []).filter((doubt) => !said.has(doubt.question)))
const busy = ref(false)
const failed = ref('')
/** Saving waits for an answer to what is asked about. */
const asking = ref(false)
const heading = ref<HTMLElement>()

async function go(key: StepKey | undefined) {
  if (!key) return
  await router.push({ query: { ...route.query, step: key } })
  await nextTick()
  if (key !== 'numbers') heading.value?.focus()
  atTop(heading.value)
}
async function turnWay() {
  oneScreen.value = !oneScreen.value
  localStorage.setItem(WAY, oneScreen.value ? 'numbers' : 'steps')
  await router.replace({ query: { ...route.query, step: standsAt(at.value, oneScreen.value) } })
}
const next = useNext(id)
const move = (by: number) => go(steps.value[index.value + by]?.key)

async function close(body: Schemas['Visit'], told: string, to?: string) {
  const by = who.value
  if (!by) return (failed.value = 'Pick who is recording first.')
  if (!timed.value) return (failed.value = 'Say when it was, or choose “Now”.')
  if (v.faults.value.length) {
    failed.value = 'One value cannot be. Mend it or clear it, then save.'
    return
  }
  asking.value = doubts.value.length > 0
  failed.value = ''
  if (asking.value) {
    failed.value = 'Say first whether that is so, or mend the number.'
    const sheet = oneScreen.value ? 'numbers' : 'close'
    if (at.value !== sheet) await go(sheet)
    return
  }
  const system = id.value
  const keeper = v.keeper.value
  if (!keeper) return (failed.value = 'The visit is still loading. Try again in a moment.')
  busy.value = true
  try {
    const entry = {
      id: keeper.id,
      body: {
        kind: 'visit' as const,
        ...body,
        overruled: child.value ? {} : stillThere(body.overruled, standing(), judged.value),
        ...(when.value ? {} : took()),
      },
      closes: keeper.version || null,
      ...(when.value ? { at: when.value } : {}),
    }
    keeper.rest()
    await recordAndSay(system, by, entry, told)
    v.end()
    forgetHands(system)
    visited(system)
    said.clear()
    when.value = null
    await router.push(to ?? `/system/${system}`)
  } catch (error) {
    const ended = error instanceof ApiError && endingOf(error)
    if (ended) return keeper.endedElsewhere(ended)
    keeper.changed()
    failed.value = error instanceof ApiError ? error.message : 'That could not be recorded. It is kept here.'
  } finally {
    busy.value = false
  }
}
/** What was said of the visit, and what the last visits found. */
const standing = () => [
  ...(v.judgement.value?.verdicts ?? []),
  ...(view.value?.verdicts ?? []).map((one) => one.verdict),
]
const drop = () =>
  askFirst({
    title: 'Throw this visit away?',
    text: 'What was typed in it is not recorded, and cannot be brought back.',
    yes: 'Throw it away',
    no: 'Keep it',
    then: () => (forgetHands(id.value), v.drop()),
  })
const { fine, says, judged } = useFine(v, view)
const allFine = () => {
  if (fine.value && !leftOn.value) void close({ ...v.plain(), all_fine: true }, 'Looked in: all fine.')
}
const finish = (to?: string) => close(v.plain(), 'The visit is recorded, and the next dates have moved.', to)
const finishAndGo = () => finish(next.value ? `/system/${next.value.id}/visit` : '/')

watch(id, () => {
  begin()
  when.value = null
  said.clear()
})
watch(doubts, (open) => {
  if (asking.value && !open.length) {
    asking.value = false
    failed.value = ''
  }
})
useShortcuts({
  n: { says: 'Next step of the visit', run: () => move(1) },
  b: { says: 'Back one step', run: () => move(-1) },
  f: { says: 'All fine: close the visit', run: allFine },
})
</script>

<template>
  <LoadState v-if="!view" :error="query.error.value" @again="query.refetch()" />
  <template v-else>
    <VisitHead
      :view="view"
      :begun="v.begun.value || asked !== 'look'"
      :shut="busy || !who || !fine || !!leftOn"
      :says="says"
      @fine="allFine"
    />
    <VisitMet :visit="v" />
    <section v-if="!who" class="waits" aria-labelledby="waits-head">
      <p class="met" role="status">Pick who is recording, above; then the visit begins.</p>
      <h2 id="waits-head">What it is about</h2>
      <ul v-if="view.tasks.length">
        <li v-for="task in view.tasks.slice(0, 6)" :key="task.code">
          {{ task.name }} <span class="small quiet">{{ task.safe }}</span>
        </li>
      </ul>
      <p v-else class="quiet">Nothing is due: look over the plants, and say that all is fine.</p>
    </section>
    <VisitLeft v-else-if="leftOn" :on="leftOn" :lines="v.leftLines.value" @keep="keepDay" @anew="v.startAnew" />
    <div v-else class="page">
      <StepList label="Steps of the visit" :steps="listed" :at="at" @go="go" />
      <section v-if="step" class="step" :aria-label="step.name">
        <p class="small quiet of">Step {{ index + 1 }} of {{ steps.length }}</p>
        <h2 ref="heading" tabindex="-1" :class="{ numbers: at === 'numbers' }">{{ step.name }}</h2>
        <p v-if="step.why && at !== 'numbers'" class="quiet">{{ step.why }}</p>
        <HandsShown v-if="at !== 'numbers'" :key="at" :hands="step.hands" />
        <VisitNumbers
          v-if="at === 'numbers'"
          :key="id"
          v-model="v.visit"
          :view="view"
          :faults="v.faults.value"
          :judgement="v.judgement.value"
          :child="child"
          :from="asked"
        >
          <template #when><WhenField v-model="when" v-model:ready="timed" :zone="view.place_body.zone" /></template>
          <template #said>
            <VisitVerdicts
              v-if="asking && doubts.length"
              v-model="v.visit"
              :view="view"
              :judgement="v.judgement.value"
              :child="child"
              :doubts="doubts"
              :verdicts="[]"
            />
            <p v-if="failed || (v.faults.value.length ? '' : v.failed.value)" class="wrong" role="alert">
              {{ failed || (v.faults.value.length ? '' : v.failed.value) }}
            </p>
          </template>
          <div class="turn both">
            <button class="button" type="button" data-last :disabled="busy || !v.begun.value" @click="finish()">
              Save
            </button>
            <button class="button main" type="button" :disabled="busy || !v.begun.value" @click="finishAndGo">
              <span>{{ next ? `Save, next: ${next.name}` : 'Save, back to the round' }}</span>
            </button>
          </div>
        </VisitNumbers>
        <VisitLook
          v-else-if="at === 'look'"
          v-model="v.visit"
          :view="view"
          :faults="v.faults.value"
          :child="child"
          :by="who"
          :told="v.judgement.value?.explanation"
        />
        <template v-else-if="at === 'level'">
          <VisitLevel v-model="v.visit" :view="view" :faults="v.faults.value" :judgement="v.judgement.value" />
          <VisitSupply
            v-if="view.system.traits.top_off_reservoir && !view.system.drum_of"
            v-model="v.visit"
            :view="view"
            :faults="v.faults.value"
          />
        </template>
        <VisitMeasures v-else-if="at === 'measure'" v-model="v.visit" :view="view" :faults="v.faults.value" />
        <VisitGlass v-else-if="at === 'glass'" v-model="v.visit" />
        <VisitRoots v-else-if="at === 'roots'" v-model="v.visit" :faults="v.faults.value" />
        <VisitTopOff
          v-else-if="at === 'top_off'"
          v-model="v.visit"
          :view="view"
          :faults="v.faults.value"
          :judgement="v.judgement.value"
        />
        <VisitJobs v-else-if="at === 'jobs'" v-model="v.visit" :view="view" :child="child" :faults="v.faults.value" />
        <template v-else>
          <VisitClose v-model="v.visit" :steps="steps" />
          <WhenField v-model="when" v-model:ready="timed" :zone="view.place_body.zone" />
        </template>
        <VisitVerdicts
          v-if="at !== 'numbers'"
          v-model="v.visit"
          :view="view"
          :judgement="v.judgement.value"
          :child="child"
          :doubts="(v.judgement.value?.doubts ?? []).filter((x) => at === 'close' || subjects.includes(x.subject))"
          :verdicts="verdictsHere"
        />
        <p
          v-if="at !== 'numbers' && (failed || (v.faults.value.length ? '' : v.failed.value))"
          class="wrong"
          role="alert"
        >
          {{ failed || (v.faults.value.length ? '' : v.failed.value) }}
        </p>
        <div v-if="at !== 'numbers'" class="turn">
          <button class="button" type="button" :disabled="index === 0" @click="move(-1)">Back</button>
          <span class="small quiet kept" role="status">{{
            v.saved.value === 'saved' ? 'Kept' : v.saved.value === 'waiting' ? 'Not connected; kept on this device' : ''
          }}</span>
          <button v-if="at !== 'close'" class="button main" type="button" @click="move(1)">Next</button>
          <button v-else class="button main" type="button" :disabled="busy || !v.begun.value" @click="finish()">
            Save the visit
          </button>
        </div>
        <button v-if="at === 'close' && v.begun.value" class="button plain" type="button" @click="drop">
          Throw this visit away
        </button>
        <button class="button plain way" type="button" @click="turnWay">
          {{ oneScreen ? 'Step by step instead' : 'All numbers on one screen' }}
        </button>
      </section>
    </div>
  </template>
</template>

<style scoped>
.met {
  padding: 12px 16px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
  margin-bottom: 16px;
  overflow-wrap: anywhere;
}
.waits {
  display: grid;
  gap: 12px;
  max-width: 640px;
}
.page {
  display: grid;
  grid-template-columns: 320px minmax(0, 640px);
  gap: 40px;
  align-items: start;
}
@media (max-width: 900px) {
  /* What stands last can be scrolled up from behind the large keys. */
  .page:has(.keyed) {
    padding-bottom: 290px;
  }
}
.step {
  display: grid;
  gap: 14px;
}
.step h2 {
  font-size: 24px;
  outline: none;
}
.turn {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
  padding-top: 8px;
}
.both {
  padding: 0;
  border: 0;
}
.both .main {
  flex: 1;
}
/* One line, however long the next one's name: what is above must not move under a hand that presses it. */
.both .main span {
  min-width: 0;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.way {
  justify-self: start;
}
.turn .button {
  min-width: 96px;
  min-height: 52px;
}
@media (max-width: 900px) {
  /* The buttons stay at the bottom of the screen while what is above them comes and goes: a tap lands where it began. */
  .step:not(:has(.both)) {
    display: flex;
    flex-direction: column;
    min-height: calc(100dvh - 160px);
  }
  .step > .turn {
    margin-top: auto;
  }
  .way {
    align-self: start;
  }
  .step .of {
    display: none;
  }
  .page {
    grid-template-columns: minmax(0, 1fr);
    gap: 4px;
  }
  h2.numbers {
    position: absolute;
    clip-path: inset(50%);
  }
  .turn {
    position: sticky;
    bottom: 0;
    padding: 10px 0;
    background: var(--paper);
    border-top: 1px solid var(--line);
  }
}
</style>
