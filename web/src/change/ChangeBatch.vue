<script setup lang="ts">
/** The batch for a change, as the bench works it out, on the step where it is mixed. */
import { computed, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { api, as, ask, type Schemas, type SystemView } from '../api/client'
import { amountUnit, type Units } from '../api/units'
import { recorderAt } from '../parts/recorder'
import NumberField from '../parts/NumberField.vue'
import { useAsked } from '../writes/asked'
import PlanSteps from '../bench/PlanSteps.vue'
import CanRow from '../bench/CanRow.vue'
import type { Changing } from './useChange'

const props = defineProps<{ change: Changing; view: SystemView; units: Units }>()
const ticks = ref<string[]>([])

/** Of a partial change it has to be known how much stays in. */
const partial = computed(() => props.change.run.value.extent === 'partial')
const stays = computed<number | null>({
  get: () => (props.change.run.value.heel == null ? null : props.units.toVolume(props.change.run.value.heel)),
  set: (value) => props.change.put({ heel: value === null ? null : props.units.fromVolume(value), batch: null }),
})

const by = computed(() => recorderAt(props.view.place.id))
/** Planned for the change as it stands: what stays in, to what it is filled. */
const question = computed<Schemas['PlanRequest'] | null>(() => {
  const { heel, heel_ec, parts } = props.change.run.value
  const litres = props.change.guide.value?.fill_to
  if (litres == null || (partial.value && heel == null)) return null
  const stays = { ...(heel == null ? {} : { heel }), ...(heel_ec == null ? {} : { heel_ec }) }
  const purpose =
    parts?.swap || parts?.first ? { for: 'fresh_fill' as const, litres } : { for: 'change' as const, litres, ...stays }
  return { system: props.view.card.id, ask: { purpose } }
})
const { answer: plan, refused } = useAsked(
  'batch',
  () => question.value,
  (body, signal) => ask(api.POST('/api/bench/plan', { params: { header: as(by.value) }, body, signal })),
)
const failed = computed(() => refused.value?.message ?? '')
watch(plan, (now) => {
  const entry = now?.entry
  if (entry?.kind === 'change' && entry.batch && !props.change.run.value.batch) props.change.put({ batch: entry.batch })
})
function use(i: number, value: number | null) {
  const batch = props.change.run.value.batch!
  const used = batch.used.map((u, n) => (n === i ? { ...u, amount: { ...u.amount, value: value ?? 0 } } : u))
  props.change.put({ batch: { ...batch, used } })
}
</script>

<template>
  <div class="batch">
    <NumberField
      v-if="partial"
      v-model="stays"
      label="What stays in"
      :unit="units.volume"
      :wrong="change.fault('heel')"
      hint="A third to a half is usually taken out"
    />
    <template v-if="plan">
      <p class="answer">{{ plan.answer }}</p>
      <CanRow v-if="plan.shares.length" :shares="plan.shares" />
      <details>
        <summary>How to mix it, step by step</summary>
        <PlanSteps v-model="ticks" :plan="plan" :system="view.card.id" />
      </details>
      <details v-if="change.run.value.batch">
        <summary>What was really used, where it differs</summary>
        <div class="fields">
          <NumberField
            v-for="(used, i) in change.run.value.batch.used"
            :key="used.product"
            :model-value="Number(used.amount.value.toPrecision(4))"
            :label="used.name"
            :unit="amountUnit(used.amount.unit)"
            @update:model-value="use(i, $event)"
          />
        </div>
      </details>
    </template>
    <p v-if="failed" class="wrong">{{ failed }}</p>
    <p class="small">
      <RouterLink :to="{ path: '/bench', query: { for: 'change', system: view.card.id } }"
        >Another recipe, target or size: to the bench</RouterLink
      >
    </p>
  </div>
</template>

<style scoped>
.batch {
  display: grid;
  gap: 12px;
  padding: 14px 18px;
  border: 1.5px solid var(--line);
  border-radius: 6px;
  background: var(--sheet);
}
.answer {
  font-size: 21px;
  line-height: 1.3;
  font-weight: 650;
}
</style>
