<script setup lang="ts">
/** The products that went in, typed again: another bottle, another amount, one more or one less. */
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { useShelf } from '../api/queries'
import { amountUnit } from '../api/units'
import PickList from '../controls/PickList.vue'
import NumberField from '../parts/NumberField.vue'

const props = defineProps<{
  /** One only, of these kinds: a dose of acid is no feed. */
  kinds?: Schemas['ProductKind'][]
  wrong: (path: string) => string | undefined
}>()
const used = defineModel<Schemas['Used'][]>({ required: true })
const { data: shelf } = useShelf()
const OTHER: Schemas['ProductKind'][] = ['peroxide', 'ph_up', 'ph_down']
const choices = computed(() => {
  const known = (shelf.value?.products ?? [])
    .filter(({ label }) => (props.kinds ? props.kinds.includes(label.what) : label.what !== 'peroxide'))
    .sort((a, b) => Number(OTHER.includes(a.label.what)) - Number(OTHER.includes(b.label.what)))
    .map(({ id, label }) => ({ key: id, name: label.name }))
  // What was used then may have been put away since.
  const gone = used.value.filter((one) => !known.some(({ key }) => key === one.product))
  return [...known, ...gone.map((one) => ({ key: one.product, name: one.name }))]
})
function as(id: string | null | undefined, value: number): Schemas['Used'] | null {
  const found = shelf.value?.products.find((one) => one.id === id)
  if (!found) return null
  const { label, learnt_rise } = found
  const rise = learnt_rise ?? label.rise ?? null
  return { product: found.id, name: label.name, what: label.what, amount: { unit: label.unit, value }, rise }
}
const put = (i: number, one: Schemas['Used'] | null) =>
  one && (used.value = used.value.map((before, n) => (n === i ? one : before)))
const amount = (i: number, value: number | null) => {
  const one = used.value[i]!
  put(i, { ...one, amount: { ...one.amount, value: value ?? 0 } })
}
function add() {
  const first = choices.value.find(({ key }) => !used.value.some((one) => one.product === key))
  const one = first && as(first.key, 0)
  if (one) used.value = [...used.value, one]
}
</script>

<template>
  <div v-for="(one, i) in used" :key="i" class="used">
    <PickList
      :model-value="one.product"
      :label="used.length > 1 ? `Product ${i + 1}` : 'Product'"
      :choices="choices"
      :wrong="wrong(`batch.used.${i}`)"
      @update:model-value="put(i, as($event, one.amount.value))"
    />
    <NumberField
      :model-value="Number(one.amount.value.toPrecision(4))"
      :label="`Amount of ${one.name}`"
      :unit="amountUnit(one.amount.unit)"
      :wrong="wrong('dosed')"
      @update:model-value="amount(i, $event)"
    />
    <button
      v-if="!kinds"
      class="button plain"
      type="button"
      :aria-label="`Remove ${one.name}`"
      @click="used = used.filter((_, n) => n !== i)"
    >
      Remove
    </button>
  </div>
  <button v-if="!kinds" class="button plain" type="button" @click="add">Add a product</button>
</template>

<style scoped>
.used {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) auto;
  gap: 0 12px;
  align-items: start;
}
.used > .button {
  /* Beside what is typed, not beside its label. */
  margin-top: 24px;
}
.button {
  justify-self: start;
}
@media (max-width: 600px) {
  .used {
    grid-template-columns: minmax(0, 1fr) auto;
  }
  .used > :first-child {
    grid-column: 1 / -1;
  }
}
</style>
