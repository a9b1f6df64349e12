<script setup lang="ts">
/** What each column of a file is taken for; every guess can be changed. */
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { useChoices, useKnowledge } from '../api/queries'
import PickList from '../controls/PickList.vue'

type How = Schemas['How']
type Column = Schemas['Column']
const props = defineProps<{ looked: Schemas['LookedView'] }>()
const emit = defineEmits<{ change: [How] }>()
const choices = useChoices()
const knowledge = useKnowledge()

const how = computed(() => props.looked.how)
const set = (part: Partial<How>) => emit('change', { ...how.value, ...part })
/** A field of it, as something that can be picked. */
const field = <K extends 'by' | 'separator' | 'decimal' | 'day' | 'clock'>(key: K) =>
  computed({ get: () => how.value[key], set: (now: How[K] | null | undefined) => now && set({ [key]: now }) })
const by = field('by')
const separator = field('separator')
const decimal = field('decimal')
const day = field('day')
const clock = field('clock')

const kind = (is: Column['is']) => props.looked.kinds.find((one) => one.is === is)
const kinds = computed(() =>
  choices<Column['is']>('column_is').filter((one) => how.value.by === 'people' || !kind(one.key)?.only_people),
)
const units = (is: Column['is']) =>
  choices<NonNullable<Column['unit']>>('column_unit').filter((one) => kind(is)?.units.includes(one.key))
const checks = computed(() => (knowledge.data.value?.checks ?? []).map((one) => ({ key: one.key, name: one.name })))
const systems = computed(() => props.looked.systems.map((one) => ({ key: one.id, name: one.name })))
const named = computed(() => how.value.columns.some((column) => column.is === 'system'))

function column(n: number, part: Partial<Column>) {
  const columns = how.value.columns.map((one, at) => {
    if (at !== n) return one
    if (!part.is) return { ...one, ...part }
    const units = kind(part.is)?.units ?? []
    const unit = one.unit && units.includes(one.unit) ? one.unit : undefined
    return { is: part.is, ...(unit ? { unit } : {}), ...(one.system ? { system: one.system } : {}) }
  })
  set({ columns })
}
const sample = (n: number) =>
  [...new Set(props.looked.rows.map((row) => row.cells[n]).filter(Boolean))].slice(0, 3).join(', ')
function means(name: string, system: string | null | undefined) {
  if (system) set({ systems: { ...how.value.systems, [name]: system } })
}
</script>

<template>
  <div class="how">
    <PickList v-model="by" label="Written by" :choices="choices<How['by']>('written_by')" />
    <PickList v-model="clock" label="Times are on the clock" :choices="choices<How['clock']>('clock_of')" />
    <PickList v-model="day" label="Dates are written" :choices="choices<How['day']>('day_order')" />
    <PickList v-model="decimal" label="Before tenths stands" :choices="choices<How['decimal']>('decimal_mark')" />
    <PickList v-model="separator" label="Between cells stands" :choices="choices<How['separator']>('separator')" />
    <PickList
      v-if="!named"
      :model-value="how.system ?? null"
      label="The system it is about"
      none="Its columns say"
      :choices="systems"
      @update:model-value="(now) => set({ system: now ?? undefined } as Partial<How>)"
    />
  </div>
  <ol class="columns">
    <li v-for="(one, n) in how.columns" :key="n" :class="{ out: one.is === 'left_out' }">
      <p class="head">
        <strong>{{ looked.head[n] || `Column ${n + 1}` }}</strong>
        <span class="small quiet">{{ sample(n) }}</span>
      </p>
      <PickList
        :model-value="one.is"
        label="Is"
        :choices="kinds"
        @update:model-value="(now) => now && column(n, { is: now })"
      />
      <PickList
        v-if="units(one.is).length"
        :model-value="one.unit ?? null"
        label="In"
        :choices="units(one.is)"
        :wrong="one.unit ? undefined : 'Choose the unit.'"
        @update:model-value="(now) => now && column(n, { unit: now })"
      />
      <PickList
        v-if="one.is === 'tick'"
        :model-value="one.check ?? null"
        label="Which check"
        :choices="checks"
        :wrong="one.check ? undefined : 'Choose the check.'"
        @update:model-value="(now) => now && column(n, { check: now })"
      />
      <PickList
        v-if="!named && !how.system && kind(one.is)?.reads"
        :model-value="one.system ?? null"
        label="Of"
        :choices="systems"
        :wrong="one.system ? undefined : 'Choose the system.'"
        @update:model-value="(now) => now && column(n, { system: now })"
      />
    </li>
  </ol>
  <div v-if="looked.unknown.length" class="names">
    <p>These names are no system’s here. Which system is meant?</p>
    <PickList
      v-for="name in looked.unknown"
      :key="name"
      :model-value="null"
      :label="name"
      :choices="systems"
      @update:model-value="(now) => means(name, now)"
    />
  </div>
</template>

<style scoped>
.how,
.names {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(260px, 100%), 1fr));
  gap: 10px 14px;
}
.names p {
  grid-column: 1 / -1;
}
.columns {
  display: grid;
  margin: 0;
  padding: 0;
  list-style: none;
}
.columns li {
  display: grid;
  grid-template-columns: minmax(0, 1.2fr) minmax(0, 1fr) minmax(0, 1fr) minmax(0, 1fr);
  gap: 4px 14px;
  align-items: start;
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
.head {
  display: grid;
  align-content: center;
  min-height: calc(var(--touch) + 20px);
  overflow-wrap: anywhere;
}
.out .head strong {
  color: var(--ink-2);
  font-weight: 500;
}
@media (max-width: 640px) {
  .columns li {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
  .head {
    grid-column: 1 / -1;
    min-height: 0;
  }
}
</style>
