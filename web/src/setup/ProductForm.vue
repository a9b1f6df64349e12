<script setup lang="ts">
/** A product, copied off its label; what its rate comes to is worked out while it is typed. */
import { amountUnit } from '../api/units'
import { computed, reactive } from 'vue'
import { api, ask, type CardView, type Schemas } from '../api/client'
import { useChoices } from '../api/queries'
import NumberField from '../parts/NumberField.vue'
import { useAsked } from '../writes/asked'
import FailNote from './FailNote.vue'
import { useCard } from './cards'

const props = defineProps<{ card?: CardView; from?: Schemas['Product'] }>()
const emit = defineEmits<{ done: [] }>()
const { create, edit, fault, failed, current, yours, busy } = useCard()
const start = props.card?.body.card === 'product' ? props.card.body : props.from
const own = start?.measures?.[0]
const choices = useChoices()
const form = reactive({
  name: start?.name ?? '',
  what: start?.what ?? ('one_part' as Schemas['ProductKind']),
  unit: start?.unit ?? ('ml' as Schemas['AmountUnit']),
  value: start?.rate?.value ?? (null as number | null),
  amount: start?.rate?.amount ?? ('millilitres' as Schemas['RateAmount']),
  per: String(start?.rate?.per ?? 1),
  volume: start?.rate?.volume ?? ('litre' as Schemas['RateVolume']),
  measure: own?.name ?? 'cap',
  holds: own?.holds ?? (null as number | null),
  density: start?.density ?? (null as number | null),
  rise: start?.rise ?? (null as number | null),
  percent: start?.percent ?? (null as number | null),
  meq: start?.meq ?? (null as number | null),
  lowers: start?.lowers_ph == null ? '' : start.lowers_ph ? 'yes' : 'no',
  living: start?.living ?? false,
  paid: start?.price?.paid ?? (null as number | null),
  money: start?.price?.money ?? '',
  pack: start?.price?.holds ?? (null as number | null),
})
const PARTS = ['nitrogen', 'phosphate', 'potash', 'calcium', 'magnesium', 'iron'] as const
const parts = reactive<Record<(typeof PARTS)[number], number | null>>({
  nitrogen: start?.analysis?.nitrogen ?? null,
  phosphate: start?.analysis?.phosphate ?? null,
  potash: start?.analysis?.potash ?? null,
  calcium: start?.analysis?.calcium ?? null,
  magnesium: start?.analysis?.magnesium ?? null,
  iron: start?.analysis?.iron ?? null,
})
const feeds = computed(() => !['dechlorinator', 'silica', 'peroxide', 'ph_up', 'ph_down'].includes(form.what))
const body = computed<Schemas['Product']>(() => ({
  name: form.name,
  what: form.what,
  unit: form.unit,
  rate:
    form.value === null
      ? null
      : {
          value: form.value,
          amount: form.amount,
          per: Number(form.per),
          volume: form.volume,
          measure: form.amount === 'own_measure' ? form.measure : null,
        },
  measures: [
    ...(form.holds === null ? [] : [{ name: form.measure, holds: form.holds }]),
    ...(start?.measures?.slice(1) ?? []),
  ],
  density: form.density,
  rise: form.rise,
  percent: form.what === 'peroxide' ? form.percent : null,
  meq: ['ph_up', 'ph_down'].includes(form.what) ? form.meq : null,
  lowers_ph: !feeds.value || form.lowers === '' ? null : form.lowers === 'yes',
  living: form.living,
  analysis: PARTS.some((part) => parts[part] !== null) ? { ...parts } : null,
  price:
    form.paid === null && form.pack === null
      ? null
      : { paid: form.paid ?? 0, money: form.money, holds: form.pack ?? 0 },
  note: start?.note ?? null,
}))
const { answer, refused } = useAsked(
  'rate',
  () => (body.value.rate && body.value.name ? body.value : null),
  (product, signal) => ask(api.POST('/api/bench/rate', { body: product, signal })),
  250,
)
const read = computed(() => {
  const found = answer.value
  if (!found) return refused.value?.message ?? ''
  const per = `${Number(found.per_litre.value.toPrecision(3))} ${amountUnit(found.per_litre.unit)} in a litre`
  return found.adds == null ? `Comes to ${per}.` : `Comes to ${per}, and adds ${found.adds.toFixed(2)} mS/cm.`
})
async function send() {
  const card = { card: 'product' as const, ...body.value }
  const done = props.card ? await edit(props.card, card) : await create(null, card)
  if (done) emit('done')
}
</script>

<template>
  <form class="form" @submit.prevent="send">
    <div class="field">
      <label for="product-name">What the label says</label>
      <input id="product-name" v-model="form.name" required maxlength="80" autocomplete="off" />
      <p class="wrong">{{ fault('name') }}</p>
    </div>
    <div class="fields">
      <div class="field">
        <label for="product-what">It is</label>
        <select id="product-what" v-model="form.what">
          <option v-for="k in choices('product')" :key="k.key" :value="k.key">{{ k.name }}</option>
        </select>
      </div>
      <div class="field">
        <label for="product-unit">Measured</label>
        <select id="product-unit" v-model="form.unit">
          <option value="ml">as a liquid, in mL</option>
          <option value="g">as a salt, in g</option>
        </select>
      </div>
    </div>
    <fieldset>
      <legend class="label">The rate, as it is printed</legend>
      <div class="rate">
        <NumberField v-model="form.value" label="How much" />
        <div class="field">
          <label for="product-amount">Of</label>
          <select id="product-amount" v-model="form.amount">
            <option v-for="a in choices('rate_amount')" :key="a.key" :value="a.key">{{ a.name }}</option>
          </select>
        </div>
        <div class="field">
          <label for="product-per">Per</label>
          <select id="product-per" v-model="form.per">
            <option v-for="n in ['1', '5', '10', '100', '1000']" :key="n" :value="n">{{ n }}</option>
          </select>
        </div>
        <div class="field">
          <label for="product-volume">Of water</label>
          <select id="product-volume" v-model="form.volume">
            <option value="litre">litres</option>
            <option value="us_gallon">US gallons</option>
            <option value="imperial_gallon">imperial gallons</option>
          </select>
        </div>
      </div>
      <p :class="fault('rate') ? 'wrong' : 'small quiet'" role="status">{{ fault('rate') ?? read }}</p>
    </fieldset>
    <fieldset>
      <legend class="label">What a pack cost, for the report of a crop</legend>
      <div class="rate">
        <NumberField v-model="form.paid" label="Paid" :wrong="fault('price.paid')" />
        <div class="field">
          <label for="product-money">In</label>
          <input id="product-money" v-model="form.money" maxlength="4" autocomplete="off" placeholder="€" />
          <p class="wrong">{{ fault('price.money') }}</p>
        </div>
        <NumberField v-model="form.pack" :label="`For, in ${amountUnit(form.unit)}`" :wrong="fault('price.holds')" />
      </div>
    </fieldset>
    <div v-if="form.amount === 'own_measure'" class="fields">
      <div class="field">
        <label for="product-measure">The cap or scoop is called</label>
        <input id="product-measure" v-model="form.measure" maxlength="80" autocomplete="off" />
      </div>
      <NumberField v-model="form.holds" label="and holds" :unit="amountUnit(form.unit)" :wrong="fault('measures')" />
    </div>
    <div class="fields">
      <NumberField
        v-if="form.what === 'peroxide'"
        v-model="form.percent"
        label="Strength"
        unit="%"
        :wrong="fault('percent')"
      />
      <NumberField
        v-else-if="['ph_up', 'ph_down'].includes(form.what)"
        v-model="form.meq"
        label="Acid or base, if printed"
        unit="meq"
        :wrong="fault('meq')"
        :hint="`In one ${amountUnit(form.unit)}`"
      />
      <NumberField
        v-else
        v-model="form.rise"
        label="EC rise, if printed"
        unit="mS/cm"
        :wrong="fault('rise')"
        :hint="`Of 1 ${amountUnit(form.unit)} in a litre; else it is learnt`"
      />
      <NumberField
        v-model="form.density"
        label="Density, if needed"
        unit="g/mL"
        :wrong="fault('density')"
        hint="For a liquid by weight, or a salt by the spoon"
      />
    </div>
    <details v-if="feeds" :open="!!start?.analysis || form.living">
      <summary>What else the label says</summary>
      <div class="more">
        <div class="parts">
          <NumberField
            v-for="p in choices<(typeof PARTS)[number]>('nutrient')"
            :key="p.key"
            v-model="parts[p.key]"
            :label="p.name"
            unit="%"
            :wrong="fault(`analysis.${p.key}`)"
          />
        </div>
        <div class="field">
          <label for="product-lowers">Lowers the pH of the water by itself</label>
          <select id="product-lowers" v-model="form.lowers">
            <option value="">Not known: it is learnt</option>
            <option value="yes">Yes</option>
            <option value="no">No</option>
          </select>
        </div>
        <label class="tick"
          ><input v-model="form.living" type="checkbox" /> Holds living inoculants: no peroxide, no chlorine with
          it</label
        >
      </div>
    </details>
    <FailNote :failed="failed" :current="current" :yours="yours" />
    <button class="button main" type="submit" :disabled="busy">{{ card ? 'Save' : 'Add' }}</button>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 14px;
}
.more {
  display: grid;
  gap: 12px;
}
.parts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(130px, 1fr));
  gap: 8px;
}
.rate {
  display: grid;
  grid-template-columns: 1.2fr 1.3fr 0.8fr 1.4fr;
  gap: 8px;
}
@media (max-width: 600px) {
  .rate {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
