<script setup lang="ts">
/** A step of a treatment against root rot, worked out by the bench: the bath, or the dose into the fresh water. */
import { computed, ref, watch } from 'vue'
import { api, as, ask, type Schemas, type SystemView } from '../api/client'
import { useBenchFacts, useShelf } from '../api/queries'
import type { Units } from '../api/units'
import PlanSteps from '../bench/PlanSteps.vue'
import PickList from '../controls/PickList.vue'
import NumberField from '../parts/NumberField.vue'
import { recorderAt } from '../parts/recorder'
import { useAsked } from '../writes/asked'
import type { Changing } from './useChange'

type What = 'root_bath' | 'peroxide_dose'
const { usualPeroxide } = useBenchFacts()
const props = defineProps<{
  what: What
  caution: string
  done: boolean
  change: Changing
  view: SystemView
  units: Units
}>()
const ticks = ref<string[]>([])
const basin = ref<number | null>(props.units.volume === 'L' ? 5 : 1)
const product = ref<string | null>(null)
const { data: shelf } = useShelf()
const bottles = computed(() =>
  (shelf.value?.products ?? [])
    .filter((p) => p.label.what === 'peroxide')
    .map((p) => ({ key: p.id, name: p.label.name })),
)
const run = computed(() => props.change.run.value)
/** Into the water that was just measured; before that, into what it is filled to. */
const fresh = computed(() => run.value.volume_after ?? props.change.guide.value?.fill_to ?? null)
const question = computed<Schemas['PlanRequest'] | null>(() => {
  const bottle = product.value ? { product: product.value } : {}
  const litres = props.what === 'root_bath' ? basin.value && props.units.fromVolume(basin.value) : fresh.value
  if (!litres) return null
  const stage = props.change.guide.value?.roots
  const purpose =
    props.what === 'root_bath'
      ? { for: 'root_bath' as const, litres, ...bottle, ...(stage ? { stage } : {}) }
      : // The water is new: what was dosed before went out with the old.
        { for: 'peroxide_dose' as const, litres, again: true, ...bottle }
  return { system: props.view.card.id, ask: { purpose } }
})
const { answer: plan, refused } = useAsked(
  props.what,
  () => question.value,
  (body, signal) =>
    ask(api.POST('/api/bench/plan', { params: { header: as(recorderAt(props.view.place.id)) }, body, signal })),
)
watch(plan, (now) => {
  const entry = now?.entry
  // What was done with other figures stays as it was recorded.
  if (props.done || entry?.kind !== 'treatment') return
  const { what, amount_ml } = entry
  const others = (run.value.parts?.treatments ?? []).filter((one) => one.what !== what)
  props.change.parts({ treatments: [...others, { what, amount_ml: amount_ml ?? null }] })
})
</script>

<template>
  <div class="treat">
    <div class="fields">
      <NumberField v-if="what === 'root_bath'" v-model="basin" label="The basin takes" :unit="units.volume" />
      <PickList
        v-if="bottles.length > 1"
        v-model="product"
        label="From which bottle"
        :choices="bottles"
        :none="usualPeroxide()"
      />
    </div>
    <template v-if="plan">
      <p class="answer">{{ plan.answer }}</p>
      <PlanSteps v-model="ticks" :plan="plan" :system="view.card.id" />
    </template>
    <p v-else-if="caution" class="caution"><strong>Caution.</strong> {{ caution }}</p>
    <p v-if="refused" class="wrong" role="alert">{{ refused.message }}</p>
    <p v-if="!plan && what === 'peroxide_dose' && !fresh" class="quiet">
      Read the level first: the dose goes by the water.
    </p>
  </div>
</template>

<style scoped>
.treat {
  display: grid;
  gap: 14px;
}
.answer {
  font-size: 20px;
  font-weight: 650;
}
</style>
