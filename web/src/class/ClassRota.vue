<script setup lang="ts">
/** Who does what on which day; whoever is absent is tapped, and their jobs go to others. */
import { computed } from 'vue'
import type { CardView } from '../api/client'
import CsvButtons from '../parts/CsvButtons.vue'
import { notify } from '../parts/notice'
import { useCard } from '../setup/cards'
import type { Week } from './paper'

const props = defineProps<{ view: Week; people: CardView[] }>()
const { edit, failed, busy } = useCard()
const jobs = computed(() =>
  props.view.systems.flatMap((system) =>
    system.rows.flatMap((row) => row.cells.map((cell) => ({ ...cell, name: row.name, system: system.name }))),
  ),
)
const of = (who: string, on: string) => jobs.value.filter((job) => job.due && job.who === who && job.on === on)
const table = computed(() =>
  props.view.hands.map((hand) => [
    hand.name,
    ...props.view.days.map((day) =>
      of(hand.id, day.on)
        .map((job) => `${job.name} (${job.system})`)
        .join('; '),
    ),
  ]),
)
const open = (on: string) => jobs.value.filter((job) => job.due && !job.who && job.on === on)
async function turn(who: string, on: string, away: boolean) {
  const card = props.people.find((one) => one.id === who)
  if (card?.body.card !== 'person') return
  const spans = card.body.away ?? []
  const without = spans.filter((span) => !(span.from <= on && on <= span.to))
  // A longer absence that covers the day is kept on both sides of it.
  const cut = spans
    .filter((span) => span.from <= on && on <= span.to && span.from !== span.to)
    .flatMap((span) => [
      ...(span.from < on ? [{ ...span, to: dayBefore(on, -1) }] : []),
      ...(span.to > on ? [{ ...span, from: dayBefore(on, 1) }] : []),
    ])
  const next = away ? [...without, ...cut] : [...spans, { from: on, to: on }]
  const after = await edit(card, { ...card.body, away: next })
  if (!after) notify(failed.value)
}
function dayBefore(on: string, by: number) {
  const date = new Date(`${on}T12:00:00Z`)
  date.setUTCDate(date.getUTCDate() + by)
  return date.toISOString().slice(0, 10)
}
</script>

<template>
  <section aria-labelledby="rota-head">
    <h2 id="rota-head">Who does what</h2>
    <div class="scroll" tabindex="0" role="region" aria-label="The rota, day by day">
      <table>
        <thead>
          <tr>
            <th scope="col">Initials</th>
            <th v-for="day in view.days" :key="day.on" scope="col">{{ day.said }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="hand in view.hands" :key="hand.id">
            <th scope="row">
              {{ hand.name }}<br /><span class="small quiet">{{ hand.did }} min in eight weeks</span>
            </th>
            <td v-for="day in view.days" :key="day.on" :class="{ away: hand.away.includes(day.on) }">
              <ul>
                <li v-for="job in of(hand.id, day.on)" :key="job.system + job.name">
                  {{ job.name }} <span class="small quiet">{{ job.system }}</span>
                </li>
              </ul>
              <button
                v-if="day.to_come"
                class="button plain screen"
                type="button"
                :disabled="busy"
                :aria-pressed="hand.away.includes(day.on)"
                :aria-label="`${hand.name} is absent on ${day.said}`"
                @click="turn(hand.id, day.on, hand.away.includes(day.on))"
              >
                {{ hand.away.includes(day.on) ? 'Absent: here after all' : 'Absent?' }}
              </button>
            </td>
          </tr>
          <tr v-if="view.days.some((day) => open(day.on).length)">
            <th scope="row">Nobody yet</th>
            <td v-for="day in view.days" :key="day.on">
              <ul>
                <li v-for="job in open(day.on)" :key="job.system + job.name">
                  {{ job.name }} <span class="small quiet">{{ job.system }}</span>
                </li>
              </ul>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <CsvButtons name="rota" :head="['Initials', ...view.days.map((day) => day.said)]" :rows="table" />
    <p class="small quiet">
      Only what children can safely do. Whoever did least in eight weeks comes first; those weeks end a week before this
      one, so that a printed sheet stays true.
    </p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 8px;
  min-width: 0;
}
table {
  width: 100%;
  border-collapse: collapse;
}
th,
td {
  min-width: 110px;
  padding: 8px 10px 8px 0;
  border-bottom: 1px solid var(--line);
  text-align: left;
  vertical-align: top;
}
.away {
  background: repeating-linear-gradient(135deg, transparent 0 5px, var(--line) 5px 6px);
}
@media print {
  .screen {
    display: none;
  }
}
</style>
