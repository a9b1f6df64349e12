<script setup lang="ts">
/** A guided change: one step a screen on a phone, all steps beside the one at hand on a desk. */
import { computed, nextTick, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { sayRefusal, type Schemas } from '../api/client'
import { useRefresh, useSystem } from '../api/queries'
import { useUnits } from '../api/units'
import { atTop } from '../parts/atTop'
import DoubtList from '../parts/DoubtList.vue'
import LoadState from '../parts/LoadState.vue'
import RecorderPick from '../parts/RecorderPick.vue'
import { notify } from '../parts/notice'
import WhenField from '../parts/WhenField.vue'
import StepList from '../parts/StepList.vue'
import { useRecording } from '../parts/useRecording'
import { useRouteId } from '../parts/routeId'
import { useShortcuts } from '../parts/shortcuts'
import ProgressBar from 'primevue/progressbar'
import { useRecord } from '../system/record'
import { useDoubts } from '../writes/doubts'
import ChangeStart from './ChangeStart.vue'
import ChangeStepSheet from './ChangeStepSheet.vue'
import { useChange } from './useChange'

const router = useRouter()
const refresh = useRefresh()
const { withdraw } = useRecord()
const id = useRouteId()
const query = useSystem(id)
const view = computed(() => query.data.value)
const units = useUnits(computed(() => view.value?.units))
const { who, child } = useRecording(view)
const c = useChange(id, who)
const steps = computed(() => c.guide.value?.steps ?? [])
/** The step stands in the address, so that Back goes one step back. */
const route = useRoute()
const asked = () => (typeof route.query.step === 'string' ? (route.query.step as Schemas['ChangeStep']) : null)
const wanted = ref(asked())
watch(
  () => route.query.step,
  () => (wanted.value = asked()),
)
const chosen = computed(() => steps.value.find((s) => s.step === wanted.value)?.step ?? null)
/** By what is marked here, so that the hands go on while there is no connection. */
const marked = (key: Schemas['ChangeStep']) => !!c.run.value.parts?.steps?.[key]
const next = computed(() => steps.value.find((s) => !marked(s.step))?.step)
const at = computed(() => chosen.value ?? next.value ?? steps.value.at(-1)?.step)
const listed = computed(() =>
  steps.value.map((s) => ({ key: s.step, name: s.name, said: s.left_out ? 'skipped' : marked(s.step) ? 'done' : '' })),
)
const missing = computed(() => c.guide.value?.missing ?? [])
const index = computed(() =>
  Math.max(
    0,
    steps.value.findIndex((s) => s.step === at.value),
  ),
)
const step = computed(() => steps.value[index.value])
const closing = computed(() => next.value === undefined && chosen.value === null)
const heading = ref<HTMLElement>()
const busy = ref(false)
/** When it was done, where it was not just now. */
const when = ref<string | null>(null)
const timed = ref(true)

async function go(key: Schemas['ChangeStep'] | null) {
  const to = key ?? next.value ?? null
  // The hands do not wait for the address.
  wanted.value = to
  void router.push({ query: to ? { step: to } : {} })
  await shown()
}
async function shown() {
  await nextTick()
  heading.value?.focus()
  atTop(heading.value)
}
async function done(leftOut?: string) {
  if (!step.value) return
  await c.mark(step.value.step, leftOut)
  if (!c.faults.value.length) await go(null)
}
const move = (by: number) => go(steps.value[index.value + by]?.step ?? null)
/** Slips are asked about here as on a visit. */
const {
  open: doubts,
  asking,
  say,
} = useDoubts(id, who, () => {
  const { extent, volume_after, ph, ec, temperature, heel, batch } = c.run.value
  return volume_after == null ? null : { kind: 'change', extent, volume_after, ph, ec, temperature, heel, batch }
})
async function finish() {
  busy.value = true
  const entry = await c.finish(when.value)
  busy.value = false
  if (!entry) return
  const by = who.value!
  const system = id.value
  notify('The change is in the log, and the next dates have moved.', () => withdraw(system, by, entry.id))
  await refresh()
  await router.push(`/system/${system}`)
}
async function giveUp() {
  const back = await c.drop()
  await refresh()
  notify('The change is cancelled; nothing of it is recorded.', back)
}
watch(id, () => (when.value = null))
useShortcuts({
  n: { says: 'Next step of the change', run: () => move(1) },
  b: { says: 'Back one step', run: () => move(-1) },
})
</script>

<template>
  <LoadState
    v-if="!view || (!child && !c.guide.value)"
    :error="query.error.value ?? (c.failed.value || null)"
    @again="query.refetch()"
  />
  <template v-else>
    <header class="head">
      <div>
        <p class="small quiet">
          {{
            c.run.value.parts?.first
              ? 'First filling'
              : c.run.value.parts?.treats
                ? 'Treatment of the roots'
                : 'Reservoir change'
          }}
        </p>
        <h1>
          <RouterLink :to="`/system/${id}`">{{ view.system.name }}</RouterLink>
        </h1>
        <p v-if="c.stored.value" class="small quiet">
          Begun {{ c.stored.value.started }}; last saved {{ c.stored.value.saved }} by {{ c.stored.value.who_name }}. It
          can be left and taken up again, on any device.
        </p>
      </div>
      <RecorderPick :place="view.place.id" :people="view.people" />
    </header>
    <p v-if="c.met.value" class="met" role="alert">{{ c.met.value }}</p>
    <template v-if="!who">
      <p class="met" role="status">Pick who leads it, above; then the change begins.</p>
      <ol class="preview">
        <li v-for="s in steps" :key="s.step">{{ s.name }}</li>
      </ol>
    </template>
    <p v-else-if="child" class="met" role="status">
      A change means mains and concentrates: an adult leads it. Levels and roots are yours on a visit.
    </p>
    <ChangeStart v-else-if="!c.begun.value" :change="c" :view="view" :units="units" @begun="shown" />
    <div v-else class="page">
      <StepList label="Steps of the change" :steps="listed" :at="closing ? undefined : at" @go="go" />
      <section v-if="closing" class="step" aria-label="Save the change">
        <h2 ref="heading" tabindex="-1">All steps are done</h2>
        <template v-if="missing.length">
          <p v-for="m in missing" :key="m.field" class="met">
            {{ sayRefusal(m) }}
          </p>
        </template>
        <template v-else>
          <DoubtList :doubts="doubts" @said="say" />
          <p>Saving adds this to the log and updates your schedule.</p>
          <WhenField v-model="when" v-model:ready="timed" :zone="view.place_body.zone" />
        </template>
        <p v-if="c.failed.value" class="wrong" role="alert">{{ c.failed.value }}</p>
        <div class="turn">
          <button class="button" type="button" @click="go(steps.at(-1)?.step ?? null)">Back</button>
          <button
            class="button main"
            type="button"
            :disabled="busy || !timed || !c.current.value || missing.length > 0 || asking || doubts.length > 0"
            @click="finish"
          >
            Save the change
          </button>
        </div>
      </section>
      <section v-else-if="step" class="step" :aria-label="step.name">
        <p class="small quiet of">
          Step {{ index + 1 }} of {{ steps.length
          }}<span v-if="step.done">, {{ step.left_out ? 'skipped' : 'done' }}</span>
        </p>
        <ProgressBar
          :value="Math.round((100 * steps.filter((s) => marked(s.step)).length) / steps.length)"
          :show-value="false"
          aria-label="Steps done"
        />
        <h2 ref="heading" tabindex="-1">{{ step.name }}</h2>
        <ChangeStepSheet
          :key="step.step"
          :step="step"
          :change="c"
          :view="view"
          :units="units"
          @done="done"
          @back="move(-1)"
          @again="c.unmark(step.step)"
        >
          <DoubtList v-if="step.step === 'measure'" :doubts="doubts" @said="say" />
        </ChangeStepSheet>
        <p v-if="c.offline.value" class="small wrong" role="status">
          Not connected; kept on this device, and sent as soon as it is.
        </p>
      </section>
      <button class="button plain give" type="button" @click="giveUp">Cancel this change</button>
    </div>
  </template>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: end;
  gap: 12px;
  margin-bottom: 20px;
}
h1 a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
  color: inherit;
  text-decoration-color: var(--line-2);
  text-underline-offset: 5px;
}
.met {
  padding: 12px 16px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
  margin-bottom: 16px;
}
.page {
  display: grid;
  grid-template-columns: 320px minmax(0, 640px);
  gap: 24px 40px;
  align-items: start;
}
.step {
  display: grid;
  gap: 14px;
}
.step h2 {
  font-size: 26px;
  outline: none;
}
.turn {
  display: flex;
  justify-content: space-between;
  gap: 12px;
}
.turn .button {
  min-height: 52px;
}
.preview {
  padding-left: 24px;
  color: var(--ink-2);
}
.give {
  justify-self: start;
}
@media (max-width: 900px) {
  .of {
    display: none;
  }
  .page {
    grid-template-columns: minmax(0, 1fr);
    gap: 8px;
  }
}
</style>
