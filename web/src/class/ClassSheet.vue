<script setup lang="ts">
/** The sheet of one system for a week: boxes to tick and lines to write on; the same as fields, to type the paper back. */
import { computed } from 'vue'
import type { CardView, Schemas } from '../api/client'
import { scaleName, type Units } from '../api/units'
import { blank, keyOf, type Paper, type Week } from './paper'

const props = defineProps<{
  view: Week
  system: Schemas['WeekSystem']
  units: Units
  typing: boolean
  people: CardView[]
  wrong: Record<string, string>
}>()
const paper = defineModel<Paper>({ required: true })
const names = computed(() => new Map(props.view.hands.map((hand) => [hand.id, hand.name])))
const called = (person: CardView) => (person.body.card === 'person' ? person.body.name : '')
const lines = computed(() =>
  props.system.numbers.map((key) => ({
    key,
    name: {
      level: props.system.by_height ? 'Height of the water' : 'Water in the vessel',
      temperature: 'Water temperature',
      ph: 'pH',
      ec: 'EC',
    }[key],
    unit: {
      level: props.system.by_height ? props.units.length : props.units.volume,
      temperature: props.units.temperature,
      ph: '',
      ec: scaleName(props.system.scale),
    }[key],
  })),
)
const at = (on: string) => (paper.value[keyOf(props.system.id, on)] ??= blank())
const peek = (on: string) => paper.value[keyOf(props.system.id, on)]
function tick(on: string, code: string) {
  const one = at(on)
  one.done = one.done.includes(code) ? one.done.filter((other) => other !== code) : [...one.done, code]
}
const write = (on: string, key: Schemas['WeekNumber'], text: string) => (at(on).numbers[key] = text)
</script>

<template>
  <section class="sheet" :aria-label="system.name">
    <h2>
      {{ system.name }} <span class="small quiet">{{ system.kind_name }}, {{ view.span }}</span>
    </h2>
    <p v-if="system.danger" class="small danger">{{ system.danger }}</p>
    <p v-if="system.suspect_why" class="small suspect">{{ system.suspect_why }}</p>
    <div
      v-if="typing || !system.danger"
      class="scroll"
      tabindex="0"
      role="region"
      :aria-label="`The days of ${system.name}`"
    >
      <table>
        <thead>
          <tr>
            <th scope="col" class="what">Tick what was done and looked sound</th>
            <th v-for="day in view.days" :key="day.on" scope="col">{{ day.said }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in system.rows" :key="row.code">
            <th scope="row" class="what">
              {{ row.name }} <span class="small quiet doing">{{ row.doing }}</span>
            </th>
            <td v-for="cell in row.cells" :key="cell.on">
              <label v-if="typing" class="tap">
                <input
                  type="checkbox"
                  :aria-label="`${row.name}, ${cell.on}`"
                  :disabled="cell.on > view.today"
                  :checked="peek(cell.on)?.done.includes(row.code) ?? false"
                  @change="tick(cell.on, row.code)"
              /></label>
              <span v-else-if="cell.due" class="box"
                ><span class="hidden">due</span>{{ cell.who ? names.get(cell.who) : '' }}</span
              >
              <span v-else class="not"><span class="hidden">not due</span></span>
            </td>
          </tr>
          <tr v-for="line in lines" :key="line.key" class="line">
            <th scope="row" class="what">
              {{ line.name }} <span class="small quiet">{{ line.unit }}</span>
            </th>
            <td v-for="day in view.days" :key="day.on">
              <input
                v-if="typing"
                class="number"
                :disabled="day.on > view.today"
                inputmode="decimal"
                autocomplete="off"
                :aria-label="`${line.name}, ${day.said}`"
                :value="peek(day.on)?.numbers[line.key] ?? ''"
                @input="write(day.on, line.key, ($event.target as HTMLInputElement).value)"
              />
              <span v-else class="write"></span>
            </td>
          </tr>
          <tr class="line">
            <th scope="row" class="what">Initials</th>
            <td v-for="day in view.days" :key="day.on">
              <template v-if="typing">
                <select
                  :aria-label="`Who, ${day.said}`"
                  :value="peek(day.on)?.who ?? ''"
                  @change="at(day.on).who = ($event.target as HTMLSelectElement).value"
                >
                  <option value=""></option>
                  <option v-for="person in people" :key="person.id" :value="person.id">{{ called(person) }}</option>
                </select>
                <p v-if="wrong[keyOf(system.id, day.on)]" class="wrong small" role="alert">
                  {{ wrong[keyOf(system.id, day.on)] }}
                </p>
              </template>
              <span v-else class="write"></span>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p class="small quiet">
      Something looks wrong, smells, leaks or makes no sound: touch nothing, leave the box empty, tell an adult.
    </p>
  </section>
</template>

<style scoped>
.sheet {
  display: grid;
  gap: 8px;
  min-width: 0;
  padding-top: 12px;
  border-top: 3px solid var(--water);
}
.suspect {
  padding: 6px 10px;
  border-left: 4px solid var(--alarm);
  background: var(--alarm-wash);
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  padding: 5px 6px;
  border: 1px solid var(--line-2);
  text-align: center;
  font-weight: 600;
}
.what {
  min-width: 150px;
  text-align: left;
}
.doing {
  display: block;
  font-weight: 400;
}
.box {
  display: inline-grid;
  place-content: center;
  width: 44px;
  height: 36px;
  border: 2px solid var(--ink-2);
  font-size: 14px;
  color: var(--ink-2);
}
.not {
  display: inline-block;
  width: 8px;
  height: 2px;
  background: var(--line-2);
}
.write {
  display: block;
  height: 36px;
}
input[type='checkbox'] {
  width: 28px;
  height: 28px;
}
/* A square as large as a fingertip around each box. */
.tap {
  display: inline-grid;
  place-content: center;
  width: var(--touch);
  height: var(--touch);
}
.number {
  width: 74px;
  min-height: var(--touch);
  text-align: center;
}
select {
  max-width: 92px;
  min-height: var(--touch);
}
@media print {
  .sheet {
    break-inside: avoid;
    margin-bottom: 8mm;
  }
  .doing {
    font-size: 11px;
  }
  .box {
    width: 13mm;
    height: 9mm;
  }
  .write {
    height: 11mm;
  }
}
</style>
