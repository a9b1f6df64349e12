<script setup lang="ts">
/** A recipe: products, and how much of each label's rate at each stage. The order is worked out. */
import { computed, reactive } from 'vue'
import type { CardView, Schemas } from '../api/client'
import PickList from '../controls/PickList.vue'
import NumberField from '../parts/NumberField.vue'
import FailNote from './FailNote.vue'
import { useCard } from './cards'

const props = defineProps<{ card?: CardView; from?: Schemas['Recipe']; products: Schemas['ProductView'][] }>()
const emit = defineEmits<{ done: [] }>()
const { create, edit, fault, failed, current, yours, busy } = useCard()
const start = props.card?.body.card === 'recipe' ? props.card.body : props.from
const usual = () => ({ seedling: 0.5, vegetative: 1, flowering: 1, ripening: 0.6 })
const STAGES = ['seedling', 'vegetative', 'flowering', 'ripening'] as const
const form = reactive<Schemas['Recipe']>({
  name: start?.name ?? '',
  lines: start ? (JSON.parse(JSON.stringify(start.lines)) as Schemas['RecipeLine'][]) : [],
  note: start?.note ?? null,
})
const left = computed(() =>
  props.products
    .filter((p) => p.label.rate && !form.lines.some((l) => l.product === p.id))
    .map((p) => ({ key: p.id, name: `${p.label.name} (${p.rate_said})` })),
)
const added = computed<string | null>({
  get: () => null,
  set: (product) => product && form.lines.push({ product, parts: usual() }),
})
const nameOf = (id: string) => props.products.find((p) => p.id === id)?.label.name ?? 'an archived product'
async function send() {
  const body = { card: 'recipe' as const, ...form }
  const done = props.card ? await edit(props.card, body) : await create(null, body)
  if (done) emit('done')
}
</script>

<template>
  <form class="form" @submit.prevent="send">
    <div class="field">
      <label for="recipe-name">Name of the recipe</label>
      <input id="recipe-name" v-model="form.name" required maxlength="80" autocomplete="off" />
      <p class="wrong">{{ fault('name') }}</p>
    </div>
    <p class="small quiet">1 is the label’s rate, 0.5 half of it, 0 leaves it out at that stage.</p>
    <fieldset v-for="(line, i) in form.lines" :key="line.product">
      <legend class="label">
        {{ nameOf(line.product) }}
        <button
          class="button plain"
          type="button"
          :aria-label="`Remove ${nameOf(line.product)}`"
          @click="form.lines.splice(i, 1)"
        >
          Remove
        </button>
      </legend>
      <div class="parts">
        <NumberField
          v-for="stage in STAGES"
          :key="stage"
          :model-value="line.parts[stage]"
          :label="stage.replace(/^./, (c) => c.toUpperCase())"
          unit="×"
          @update:model-value="line.parts[stage] = $event ?? 0"
        />
      </div>
      <p class="wrong">{{ fault(`lines.${i}`) }}</p>
    </fieldset>
    <PickList
      v-model="added"
      label="Add a product"
      :choices="left"
      none="Pick one with a rate"
      :wrong="form.lines.length ? undefined : fault('lines')"
    />
    <FailNote :failed="failed" :current="current" :yours="yours" />
    <button class="button main" type="submit" :disabled="busy">{{ card ? 'Save' : 'Add' }}</button>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 14px;
}
.parts {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 8px;
}
legend {
  display: flex;
  align-items: center;
  justify-content: space-between;
  width: 100%;
}
@media (max-width: 600px) {
  .parts {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
