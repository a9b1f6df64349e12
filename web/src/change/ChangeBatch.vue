<script setup lang="ts">
/** The batch for a change, as the bench works it out, on the step where it is mixed. */
import { computed, onScopeDispose, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { api, as, ask, type Schemas, type SystemView } from '../api/client'
import { amountUnit, type Units } from '../api/units'
import { recorderAt } from '../parts/recorder'
import NumberField from '../parts/NumberField.vue'
import { useAsked } from '../writes/asked'
import PlanSteps from '../bench/PlanSteps.vue'
import CanRow from '../bench/CanRow.vue'
import { asTyped, sameProducts } from './batch'
import type { Changing } from './useChange'

const props = defineProps<{ change: Changing; view: SystemView; units: Units; done: boolean }>()
/** What has to be entered before it is mixed, in a sentence. */
const open = defineModel<string>('open', { required: true })
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
  // The guide lets the old water out, fills and pours in steps of its own.
  const mix_in = props.change.guide.value?.mixed === 'vessel' ? ('vessel' as const) : ('cans' as const)
  return { system: props.view.card.id, ask: { purpose, mix_in, led: true } }
})
const { answer: plan, refused } = useAsked(
  'batch',
  () => question.value,
  (body, signal) => ask(api.POST('/api/bench/plan', { params: { header: as(by.value) }, body, signal })),
)
const failed = computed(() => refused.value?.message ?? '')
/** What the plan on the screen would be recorded as: taken over when the step is ticked off. */
const planned = computed(() => {
  const batch = plan.value?.entry?.kind === 'change' ? plan.value.entry.batch : null
  if (!batch) return null
  // What goes in only as far as it is needed is known afterwards.
  const known = (i: number) => plan.value!.doses[i]?.first == null
  const used = batch.used.map((u, i) => (known(i) ? u : { ...u, amount: { ...u.amount, value: 0 } }))
  return { ...batch, used }
})
watch(planned, (now) => now && props.change.plans(now), { immediate: true })
/** What was mixed, once it was. */
const mixed = computed(() => (props.done ? props.change.run.value.batch : null))
const shown = computed(() => mixed.value ?? asTyped(props.change.run.value.batch, planned.value))
/** Whether some of it goes in only as far as it is needed, so that what was used is known afterwards. */
const byMeasure = computed(() => !!plan.value?.doses.some((dose) => dose.first != null))
/** Whether the recipe or the volume was changed after it was mixed. */
const moved = computed(() => !!mixed.value && !!planned.value && !sameProducts(mixed.value, planned.value))
/** Products whose amount was entered here. */
const entered = ref<string[]>([])
const asks = (i: number) =>
  !props.done &&
  plan.value?.doses[i]?.first != null &&
  !shown.value?.used[i]?.amount.value &&
  !entered.value.includes(plan.value.doses[i]!.product)
const amount = (i: number) => (asks(i) ? null : Number(shown.value!.used[i]!.amount.value.toPrecision(4)))
watch(
  () => plan.value?.doses.find((_, i) => asks(i))?.name,
  (name) => (open.value = name ? `Enter how much ${name} you used, or 0.` : ''),
  { immediate: true },
)
onScopeDispose(() => (open.value = ''))
function use(i: number, value: number | null) {
  const batch = shown.value!
  const product = batch.used[i]!.product
  entered.value = [...entered.value.filter((one) => one !== product), ...(value === null ? [] : [product])]
  const used = batch.used.map((u, n) => (n === i ? { ...u, amount: { ...u.amount, value: value ?? 0 } } : u))
  props.change.put({ batch: { ...batch, used } })
}
</script>

<template>
  <div class="batch">
    <NumberField
      v-if="partial"
      v-model="stays"
      label="Water left in the tank"
      :unit="units.volume"
      :wrong="change.fault('heel')"
      hint="A third to a half is usually taken out"
    />
    <template v-if="plan">
      <template v-if="moved">
        <p class="answer">You mixed {{ mixed!.used.map((used) => used.name).join(', ') }}.</p>
        <p>The recipe was changed after that. What you mixed is what will be saved.</p>
      </template>
      <template v-else>
        <p class="answer">{{ plan.answer }}</p>
        <CanRow v-if="plan.shares.length" :shares="plan.shares" />
      </template>
      <details v-if="!moved">
        <summary>How to mix it, step by step</summary>
        <PlanSteps v-model="ticks" :plan="plan" :system="view.card.id" />
      </details>
      <details v-if="shown" :open="byMeasure">
        <summary>{{ byMeasure ? 'Enter what you used' : 'I used different amounts' }}</summary>
        <div class="fields">
          <NumberField
            v-for="(used, i) in shown.used"
            :key="used.product"
            :model-value="amount(i)"
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
