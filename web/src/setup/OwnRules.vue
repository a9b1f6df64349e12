<script setup lang="ts">
/** Rules of one's own for a system: by days, on weekdays, or after so many top-offs; only in warm water, if wanted. */
import { computed, reactive } from 'vue'
import { newId, type Schemas } from '../api/client'
import { useChoices, useKnowledge } from '../api/queries'
import type { Units } from '../api/units'
import ChoiceChips from '../controls/ChoiceChips.vue'
import NumberField from '../parts/NumberField.vue'

const props = defineProps<{ units: Units; wrong: (path: string) => string | undefined }>()
const rules = defineModel<Schemas['OwnRule'][] | undefined>({ required: true })
type Rule = Schemas['OwnRule']
type By = Schemas['Every']['by']
const choices = useChoices()
const { data: knowledge } = useKnowledge()
const all = computed(() => rules.value ?? [])
const put = (n: number, change: Partial<Rule>) =>
  (rules.value = all.value.map((rule, i) => (i === n ? { ...rule, ...change } : rule)))
const usual: Record<By, Schemas['Every']> = {
  days: { by: 'days', days: 7 },
  weekdays: { by: 'weekdays', on: ['monday'] },
  top_offs: { by: 'top_offs', times: 3 },
  sign: { by: 'sign', sign: 'leaves_curl_in' },
  stage: { by: 'stage', stage: 'flowering' },
  minimum: { by: 'minimum', before: 2 },
}
const add = () =>
  (rules.value = [...all.value, reactive({ id: newId(), name: '', every: usual.days, slack_days: 3, adult: false })])
const remove = (n: number) => (rules.value = all.value.filter((_, i) => i !== n))
const whole = (value: number | null) => Math.round(value ?? 0)
const warm = (rule: Rule) => (rule.warmer_than == null ? null : props.units.toTemperature(rule.warmer_than))
</script>

<template>
  <div class="rules">
    <p class="quiet small">“Trim the roots at the pump every 10 days”, “water the window seedlings on Mondays”.</p>
    <fieldset v-for="(rule, n) in all" :key="rule.id" class="rule">
      <legend class="hidden">{{ rule.name || 'A new rule' }}</legend>
      <div class="fields">
        <div class="field wide">
          <label :for="`rule-${rule.id}`">What is done</label>
          <input
            :id="`rule-${rule.id}`"
            :value="rule.name"
            required
            maxlength="80"
            autocomplete="off"
            @input="put(n, { name: ($event.target as HTMLInputElement).value })"
          />
          <p v-if="wrong(`rules.${n}.name`)" class="wrong">{{ wrong(`rules.${n}.name`) }}</p>
        </div>
        <div class="field">
          <label :for="`by-${rule.id}`">When</label>
          <select
            :id="`by-${rule.id}`"
            :value="rule.every.by"
            @change="put(n, { every: usual[($event.target as HTMLSelectElement).value as By] })"
          >
            <option v-for="by in choices<By>('rule_by')" :key="by.key" :value="by.key">{{ by.name }}</option>
          </select>
        </div>
        <NumberField
          v-if="rule.every.by === 'days'"
          :model-value="rule.every.days"
          label="How many days"
          unit="days"
          :wrong="wrong(`rules.${n}.every`)"
          @update:model-value="put(n, { every: { by: 'days', days: whole($event) } })"
        />
        <NumberField
          v-else-if="rule.every.by === 'top_offs'"
          :model-value="rule.every.times"
          label="How many top-offs"
          :wrong="wrong(`rules.${n}.every`)"
          @update:model-value="put(n, { every: { by: 'top_offs', times: whole($event) } })"
        />
        <NumberField
          v-else-if="rule.every.by === 'minimum'"
          :model-value="rule.every.before"
          label="How many days before"
          unit="days"
          :wrong="wrong(`rules.${n}.every`)"
          @update:model-value="put(n, { every: { by: 'minimum', before: whole($event) } })"
        />
        <div v-else-if="rule.every.by === 'sign'" class="field">
          <label :for="`sign-${rule.id}`">Which sign</label>
          <select
            :id="`sign-${rule.id}`"
            :value="rule.every.sign"
            @change="put(n, { every: { by: 'sign', sign: ($event.target as HTMLSelectElement).value } })"
          >
            <option v-for="sign in knowledge?.signs ?? []" :key="sign.key" :value="sign.key">{{ sign.say }}</option>
          </select>
          <p v-if="wrong(`rules.${n}.every`)" class="wrong">{{ wrong(`rules.${n}.every`) }}</p>
        </div>
        <div v-else-if="rule.every.by === 'stage'" class="field">
          <label :for="`stage-${rule.id}`">Which stage</label>
          <select
            :id="`stage-${rule.id}`"
            :value="rule.every.stage"
            @change="
              put(n, {
                every: { by: 'stage', stage: ($event.target as HTMLSelectElement).value },
              })
            "
          >
            <option v-for="stage in choices('stage')" :key="stage.key" :value="stage.key">{{ stage.name }}</option>
          </select>
        </div>
        <NumberField
          :model-value="rule.slack_days"
          label="How late it may be"
          unit="days"
          :wrong="wrong(`rules.${n}.slack_days`)"
          @update:model-value="put(n, { slack_days: $event ?? 0 })"
        />
        <NumberField
          :model-value="warm(rule)"
          label="Only in water from this on"
          :unit="units.temperature"
          hint="Left empty: always"
          :wrong="wrong(`rules.${n}.warmer_than`)"
          @update:model-value="put(n, { warmer_than: $event == null ? null : units.fromTemperature($event) })"
        />
      </div>
      <ChoiceChips
        v-if="rule.every.by === 'weekdays'"
        :model-value="rule.every.on"
        label="On which weekdays"
        :choices="choices<Schemas['Weekday']>('weekday')"
        several
        @update:model-value="put(n, { every: { by: 'weekdays', on: $event as Schemas['Weekday'][] } })"
      />
      <p v-if="rule.every.by === 'weekdays' && wrong(`rules.${n}.every`)" class="wrong">
        {{ wrong(`rules.${n}.every`) }}
      </p>
      <div class="foot">
        <label class="tick"
          ><input
            type="checkbox"
            :checked="rule.adult"
            @change="put(n, { adult: ($event.target as HTMLInputElement).checked })"
          />
          For adults only</label
        >
        <button
          class="button plain"
          type="button"
          :aria-label="`Remove: ${rule.name || 'new rule'}`"
          @click="remove(n)"
        >
          Remove
        </button>
      </div>
    </fieldset>
    <p v-if="wrong('rules') && !all.length" class="wrong">{{ wrong('rules') }}</p>
    <button class="button" type="button" @click="add">Add a rule</button>
  </div>
</template>

<style scoped>
.rules,
.rule {
  display: grid;
  gap: 12px;
  justify-items: start;
  min-width: 0;
}
.rule {
  width: 100%;
  margin: 0;
  padding: 12px 0;
  border: 0;
  border-bottom: 1px solid var(--line);
}
.rule .fields {
  width: 100%;
}
@media (width > 560px) {
  .rule .wide {
    grid-column: span 2;
  }
}
.foot {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 24px;
}
</style>
