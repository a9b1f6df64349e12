<script setup lang="ts">
/** The numbers of a visit under each other, each judged in a line, with large keys where they are touched. */
import { nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { VisitJudged, Refusal, Schemas, SystemView, Visit } from '../api/client'
import NumberPad from '../parts/NumberPad.vue'
import { usePressing } from '../parts/pressing'
import { nextField, padded, padFields, touched } from '../parts/pad'
import VisitLevel from './VisitLevel.vue'
import VisitMeasures from './VisitMeasures.vue'
import VisitSupply from './VisitSupply.vue'
import VisitTopOff from './VisitTopOff.vue'
import VisitVerdicts from './VisitVerdicts.vue'
import type { StepKey } from './steps'

const props = defineProps<{
  view: SystemView
  faults: Refusal[]
  judgement: VisitJudged | null
  child: boolean
  /** The step that led here: its number is the first to be typed. */
  from: StepKey
}>()
const visit = defineModel<Visit>({ required: true })
const sheet = ref<HTMLElement>()
const typing = ref(false)
const judged = (subject: Schemas['Subject']) => ({
  view: props.view,
  judgement: props.judgement,
  child: props.child,
  lines: true,
  verdicts: (props.judgement?.verdicts ?? []).filter((v) => v.subject === subject),
  doubts: (props.judgement?.doubts ?? []).filter((d) => d.subject === subject),
})
const next = () => sheet.value && nextField(sheet.value)
/** The keys stay while what is pressed stands beside them: what is pressed must not move away from under the hand. */
function onField({ target }: FocusEvent) {
  if (!(target instanceof HTMLElement) || target.closest('.below')) return
  wanted = target.dataset.pad !== undefined
  // The keys go only once what was pressed has been told of it: else the page jumps and the tap is lost.
  if (wanted || !pressing.value) turn(wanted)
}
let wanted = false
const pressing = usePressing()
watch(pressing, (down) => !down && turn(wanted))
/** As the keys come up over the lower half of the screen, the field that called them comes above them. */
function turn(to: boolean) {
  if (typing.value === to) return
  typing.value = to
  if (to && padded.value) void nextTick(() => document.activeElement?.scrollIntoView({ block: 'nearest' }))
}
/** What is said of a number stands below it: both come into sight once the hand rests; while it types, nothing moves
 * under it. */
const RESTS = 900
let resting: ReturnType<typeof setTimeout> | undefined
function intoSight() {
  clearTimeout(resting)
  resting = setTimeout(() => {
    const field = document.activeElement
    if (padded.value && field instanceof HTMLElement && field.dataset.pad !== undefined && sheet.value?.contains(field))
      field.scrollIntoView({ block: 'nearest' })
  }, RESTS)
}
watch(() => props.judgement, intoSight, { flush: 'post' })
/** Who has scrolled since looks at something else. */
const elsewhere = () => clearTimeout(resting)
onMounted(() => window.addEventListener('scroll', elsewhere, { passive: true }))
onBeforeUnmount(() => {
  elsewhere()
  window.removeEventListener('scroll', elsewhere)
})
onMounted(async () => {
  await nextTick()
  const fields = sheet.value ? padFields(sheet.value) : []
  const at = { measure: 1, top_off: fields.length - 1 }[props.from as string] ?? 0
  fields[at]?.focus({ preventScroll: at === 0 })
})
</script>

<template>
  <div
    ref="sheet"
    class="sheet"
    @keydown.enter="($event.target as HTMLElement).dataset.pad !== undefined && ($event.preventDefault(), next())"
    @input="intoSight"
    @focusin="onField"
  >
    <div class="rows">
      <VisitLevel v-model="visit" row :view="view" :faults="faults" :judgement="judgement" />
      <VisitVerdicts v-model="visit" v-bind="judged('level')" />
      <VisitSupply
        v-if="view.system.traits.top_off_reservoir && !view.system.drum_of"
        v-model="visit"
        row
        :view="view"
        :faults="faults"
      />
      <VisitMeasures v-model="visit" row :view="view" :faults="faults">
        <template #temperature><VisitVerdicts v-model="visit" v-bind="judged('temperature')" /></template>
        <template #ph><VisitVerdicts v-model="visit" v-bind="judged('ph')" /></template>
        <template #ec><VisitVerdicts v-model="visit" v-bind="judged('ec')" /></template>
        <template #run_off><VisitVerdicts v-model="visit" v-bind="judged('run_off')" /></template>
      </VisitMeasures>
      <VisitTopOff v-model="visit" row :view="view" :faults="faults" :judgement="judgement" />
      <VisitVerdicts v-model="visit" v-bind="judged('top_off')" />
      <slot name="when"></slot>
    </div>
    <div class="below" :class="{ keyed: padded && typing }">
      <button v-if="touched && !padded" class="button plain" type="button" @click="padded = true">Large keys</button>
      <!-- The keys stand on what is below them, at the edge of the screen: what comes while they are pressed stands above. -->
      <slot name="said"></slot>
      <NumberPad v-if="padded && typing" @next="next" />
      <slot></slot>
    </div>
  </div>
</template>

<style scoped>
.sheet {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
}
.rows {
  display: grid;
  border-top: 1px solid var(--line);
}
.rows :deep(.field.row) {
  padding: 5px 0;
  min-height: 64px;
}
.below {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
  padding: 8px 0;
  background: var(--paper);
  border-top: 1px solid var(--line);
}
/* At the edge of the screen, wherever the page ends: a line that comes above must not move a key from under the hand. */
.below.keyed {
  position: fixed;
  z-index: 1;
  inset: auto 0 0;
  padding: 8px 16px max(8px, env(safe-area-inset-bottom));
}
.rows :deep(.when) {
  padding: 8px 0;
}
.rows :deep(.when > .field:first-child) {
  grid-column: 1 / -1;
  grid-template-columns: minmax(0, 1fr) minmax(0, 220px);
  align-items: center;
}
@media (min-width: 901px) {
  .below,
  .below.keyed {
    position: sticky;
    bottom: 0;
  }
  .below.keyed {
    padding-inline: 0;
  }
}
.rows :deep(input) {
  scroll-margin-bottom: 480px;
}
</style>
