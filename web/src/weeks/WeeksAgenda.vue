<script setup lang="ts">
/** The same, day by day in words: what falls where, what it costs, and what can be moved. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '../api/client'
import type { Units } from '../api/units'
import { dayName } from '../system/putOff'
import type { Coming } from './weeks'

const props = defineProps<{
  view: Schemas['AheadView']
  units: Units
  /** A plan for a term: what is heavy or rare, and not what comes every few days. */
  term?: boolean
}>()
defineEmits<{ ask: [system: string, one: Coming] }>()
const falls = (on: string) =>
  props.view.systems.flatMap((system) =>
    system.coming
      .filter(
        (one) => one.on === on && (!props.term || one.heavy || one.check === 'harvest' || one.check === 'calibrate'),
      )
      .map((one) => ({ system, one })),
  )
const rows = computed(() =>
  props.view.days
    .map((day, n) => ({ day, n, falls: falls(day.on) }))
    .filter(({ day, falls }) => falls.length || (!props.term && day.open) || !day.open),
)
/** Closed days in a row are said once. */
const shown = computed(() => {
  const all: { day: Schemas['AheadDay']; to?: Schemas['AheadDay']; falls: ReturnType<typeof falls> }[] = []
  for (const { day, falls: list } of rows.value) {
    const last = all.at(-1)
    if (!day.open && !list.length && last && !last.day.open && !last.falls.length) last.to = day
    else all.push({ day, falls: list })
  }
  return all
})
const litres = (value: number) => `${Math.round(props.units.toVolume(value))} ${props.units.volume}`
</script>

<template>
  <ol class="agenda">
    <li v-for="{ day, to, falls: list } in shown" :key="day.on" :class="{ closed: !day.open }">
      <h2>
        <span class="which"
          >{{ day.said }}<template v-if="to"> to {{ to.said }}</template></span
        >
        <span class="small quiet sum">
          <template v-if="!day.open">closed</template>
          <template v-else-if="day.minutes"
            >{{ day.minutes }} min<template v-if="day.litres >= 0.5">, {{ litres(day.litres) }}</template></template
          >
        </span>
      </h2>
      <ul v-if="list.length">
        <li v-for="{ system, one } in list" :key="system.id + one.code" :class="{ later: !one.first }">
          <span>
            <strong>{{ one.name }}</strong>
            <span v-if="one.heavy" class="small quiet"
              >, {{ one.minutes }} min<template v-if="one.litres >= 0.5">, {{ litres(one.litres) }}</template></span
            >
            <br />
            <RouterLink class="small" :to="`/system/${system.id}`">{{ system.name }}</RouterLink>
            <span v-if="one.first && one.due_on < one.on" class="small late">
              late since {{ dayName(one.due_on) }}</span
            >
          </span>
          <button
            v-if="one.movable && !view.child"
            class="button plain"
            type="button"
            :aria-label="`Move: ${one.name} at ${system.name}`"
            @click="$emit('ask', system.id, one)"
          >
            Move
          </button>
        </li>
      </ul>
    </li>
  </ol>
</template>

<style scoped>
.agenda {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(300px, 100%), 1fr));
  gap: 16px 32px;
  align-items: start;
}
.which {
  display: inline-block;
}
.which::first-letter {
  text-transform: uppercase;
}
h2 {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 0 12px;
  padding-bottom: 4px;
  border-bottom: 2px solid var(--ink-2);
  font-size: 17px;
}
.closed h2 {
  border-bottom-style: dotted;
}
.sum {
  font-weight: 500;
}
ul li {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 12px;
  min-height: 52px;
  padding: 4px 0;
  border-bottom: 1px solid var(--line);
}
.later strong {
  font-weight: 500;
}
.late {
  color: var(--alarm);
}
a.small {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
}
</style>
