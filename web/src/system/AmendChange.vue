<script setup lang="ts">
/** How a change went, typed again: how much of the water, where the old water went, with what it was sanitised, what was
 *  dosed against root rot, and which steps were done. */
import { computed } from 'vue'
import type { Schemas, SystemView } from '../api/client'
import { useChoices } from '../api/queries'
import { useUnits } from '../api/units'
import ChoiceChips from '../controls/ChoiceChips.vue'
import NumberField from '../parts/NumberField.vue'

type Change = Extract<Schemas['Body'], { kind: 'change' }>
type Parts = Schemas['ChangeParts']
const props = defineProps<{ view: SystemView; at: string; wrong: (path: string) => string | undefined }>()
const change = defineModel<Change>({ required: true })
const units = useUnits(computed(() => props.view.units))
const choices = useChoices()
const set = (changes: Partial<Change>) => (change.value = { ...change.value, ...changes })
/** An entry of an earlier day may have none: then only what is typed here is. */
const guided = computed(() => change.value.parts ?? null)
const part = (changes: Partial<Parts>) => set({ parts: { ...guided.value!, ...changes } })

const extent = computed({ get: () => change.value.extent, set: (to) => to && set({ extent: to }) })
const oldWater = computed({ get: () => guided.value?.old_water, set: (to) => part({ old_water: to ?? null }) })
const sanitisers = computed<Schemas['Sanitiser'][]>({
  get: () => guided.value?.sanitisers ?? [],
  set: (now) => part({ sanitisers: now }),
})
/** What kind of change it was, as it is chosen when one begins. */
const SORTS = [
  { key: 'first' as const, name: 'First filling' },
  { key: 'reset' as const, name: 'Full reset' },
  { key: 'treats' as const, name: 'Roots treated' },
  { key: 'swap' as const, name: 'Vessel swapped' },
]
const sorts = computed({
  get: () => SORTS.map(({ key }) => key).filter((key) => guided.value?.[key]),
  set: (now) => part(Object.fromEntries(SORTS.map(({ key }) => [key, now.includes(key)]))),
})
const temperatures = ['tank_temperature', 'batch_temperature'] as const
const shown = (where: (typeof temperatures)[number]) => {
  const read = guided.value?.[where]
  return read == null ? null : units.value.toTemperature(read)
}
const treatment = (i: number, amount: number | null) =>
  part({ treatments: guided.value!.treatments!.map((one, n) => (n === i ? { ...one, amount_ml: amount } : one)) })
const BATH: Schemas['TreatmentKind'] = 'root_bath'

/** The steps as they were told: a mark that is set again keeps its time; another was made when the change was. */
const before = { ...change.value.parts?.steps }
const mark = (key: string) => guided.value?.steps?.[key]
const put = (key: string, left: string | null) => {
  const steps = { ...guided.value?.steps }
  const at = before[key]?.at ?? props.at
  if (left === '') delete steps[key]
  else steps[key] = left === null ? { at } : { at, left_out: left }
  part({ steps })
}
const tick = (key: string, on: boolean) => put(key, on ? null : '')
const value = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <div class="how">
    <ChoiceChips v-model="extent" label="How much was changed" :choices="choices<Change['extent']>('extent')" keep />
    <template v-if="guided">
      <ChoiceChips v-model="sorts" label="Type of change" :choices="SORTS" several />
      <div class="fields">
        <NumberField
          v-for="where in temperatures"
          :key="where"
          :model-value="shown(where)"
          :label="where === 'tank_temperature' ? 'Tank before' : 'Fresh batch'"
          :unit="units.temperature"
          :wrong="wrong(`parts.${where}`)"
          @update:model-value="part({ [where]: $event === null ? null : units.fromTemperature($event) })"
        />
      </div>
      <div v-if="guided.temper_reason != null || wrong('parts.temper_reason')" class="field">
        <label for="amend-temper">Why you used it anyway</label>
        <input
          id="amend-temper"
          :value="guided.temper_reason ?? ''"
          maxlength="2000"
          @input="part({ temper_reason: value($event) || null })"
        />
        <p v-if="wrong('parts.temper_reason')" class="wrong" role="alert">{{ wrong('parts.temper_reason') }}</p>
      </div>
      <ChoiceChips
        v-model="oldWater"
        label="Where the old water went"
        :choices="choices<Schemas['OldWater']>('old_water')"
      />
      <ChoiceChips
        v-model="sanitisers"
        label="Sanitised with"
        :choices="choices<Schemas['Sanitiser']>('sanitiser')"
        several
      />
      <p v-if="wrong('parts.sanitisers')" class="wrong" role="alert">{{ wrong('parts.sanitisers') }}</p>
      <NumberField
        v-for="(one, i) in guided.treatments ?? []"
        :key="i"
        :model-value="one.amount_ml ?? null"
        :label="one.what === BATH ? 'Peroxide in the root bath' : 'Peroxide into the water'"
        unit="mL"
        :wrong="wrong(`parts.treatments.${i}`)"
        @update:model-value="treatment(i, $event)"
      />
      <fieldset>
        <legend>Steps</legend>
        <div v-for="step in choices<string>('change_step')" :key="step.key">
          <label class="tick">
            <input
              type="checkbox"
              :checked="!!mark(step.key) && mark(step.key)!.left_out == null"
              @change="tick(step.key, ($event.target as HTMLInputElement).checked)"
            />
            {{ step.name }}
          </label>
          <div v-if="(before[step.key] && !mark(step.key)) || mark(step.key)?.left_out != null" class="field why">
            <label :for="`why-${step.key}`">Why it was skipped</label>
            <input
              :id="`why-${step.key}`"
              :value="mark(step.key)?.left_out ?? ''"
              maxlength="2000"
              @change="put(step.key, value($event))"
            />
          </div>
          <p v-if="wrong(`parts.steps.${step.key}`)" class="wrong" role="alert">
            {{ wrong(`parts.steps.${step.key}`) }}
          </p>
        </div>
      </fieldset>
    </template>
  </div>
</template>

<style scoped>
.how {
  display: grid;
  gap: 16px;
  padding-top: 8px;
}
legend {
  font-size: 14px;
  font-weight: 600;
}
.tick {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: var(--touch);
}
.why {
  padding: 0 0 10px 34px;
}
</style>
