<script setup lang="ts">
/** What was picked: of which planting, some of it or all of it, by weight or by count. */
import { computed } from 'vue'
import type { Refusal, Schemas, SystemView, Visit } from '../api/client'
import { useChoices } from '../api/queries'
import ChoiceChips from '../controls/ChoiceChips.vue'
import NumberField from '../parts/NumberField.vue'
import { faultOf } from './useVisit'

const props = defineProps<{ view: SystemView; faults: Refusal[] }>()
const visit = defineModel<Visit>({ required: true })
type Harvest = Schemas['Harvested']
const choices = useChoices()
const OUNCE = 28.349523
const ounces = computed(() => props.view.units !== 'metric')
const growing = computed(() =>
  props.view.plantings
    .flatMap((card) =>
      !card.archived && card.body.card === 'planting' && card.body.stage !== 'done'
        ? [{ id: card.id, crop: card.body.crop, ports: card.body.ports }]
        : [],
    )
    .sort((a, b) => parseInt(a.ports) - parseInt(b.ports)),
)
const all = computed(() => visit.value.harvests ?? [])
const of = (planting: string) => all.value.find((one) => one.planting === planting)
const how = computed(() => choices<'some' | 'whole'>('harvest'))
function put(planting: { id: string; crop: string }, change: Partial<Harvest> | null) {
  const others = all.value.filter((one) => one.planting !== planting.id)
  const before = of(planting.id) ?? { planting: planting.id, crop: planting.crop }
  visit.value.harvests = change ? [...others, { ...before, ...change }] : others
}
const turn = (planting: { id: string; crop: string }, now: unknown) =>
  put(planting, now ? { whole: now === 'whole' } : null)
const weight = (one: Harvest | undefined) =>
  one?.grams == null ? null : ounces.value ? Number((one.grams / OUNCE).toFixed(2)) : one.grams
const weigh = (planting: { id: string; crop: string }, value: number | null) =>
  put(planting, { grams: value == null ? null : ounces.value ? value * OUNCE : value })
const fault = (planting: string, part: string) =>
  faultOf(props.faults, `harvests.${all.value.findIndex((one) => one.planting === planting)}.${part}`)
</script>

<template>
  <section v-if="growing.length" class="harvest" aria-labelledby="harvest-head">
    <h3 id="harvest-head">Harvest</h3>
    <p class="small quiet">{{ view.picking }}</p>
    <div v-for="planting in growing" :key="planting.id" class="one">
      <ChoiceChips
        :model-value="of(planting.id) ? (of(planting.id)!.whole ? 'whole' : 'some') : null"
        :label="`${planting.crop}, ${/[-,]/.test(planting.ports) ? 'ports' : 'port'} ${planting.ports}`"
        :choices="how"
        @update:model-value="turn(planting, $event)"
      />
      <div v-if="of(planting.id)" class="fields">
        <NumberField
          :model-value="weight(of(planting.id))"
          label="It weighed"
          :unit="ounces ? 'oz' : 'g'"
          :wrong="fault(planting.id, 'grams')"
          hint="Left empty where not weighed"
          @update:model-value="weigh(planting, $event)"
        />
        <NumberField
          :model-value="of(planting.id)!.pieces ?? null"
          label="How many"
          :wrong="fault(planting.id, 'pieces')"
          hint="Heads, bunches or fruits"
          @update:model-value="put(planting, { pieces: $event == null ? null : Math.round($event) })"
        />
      </div>
      <p v-if="of(planting.id)?.whole" class="small quiet">
        All of it: take its roots out too. Its ports are set free when you save.
      </p>
    </div>
  </section>
</template>

<style scoped>
.harvest,
.one {
  display: grid;
  gap: 8px;
}
.one {
  padding-bottom: 10px;
  border-bottom: 1px solid var(--line);
}
</style>
