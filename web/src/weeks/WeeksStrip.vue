<script setup lang="ts">
/** A strip for each system: marks on their days, closed days hatched, bands where a day is a forecast. A mark is moved
 * by dragging it, or by the arrow keys and Enter. */
import { computed, ref, shallowRef } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '../api/client'
import type { Units } from '../api/units'
import { dayName } from '../system/putOff'
import { onDay, type Coming } from './weeks'

const props = defineProps<{ view: Schemas['AheadView']; units: Units }>()
const emit = defineEmits<{
  move: [system: string, one: Coming, to: string]
  ask: [system: string, one: Coming]
  refused: [says: string]
}>()
const days = computed(() => props.view.days)
const place = (on: string) => days.value.findIndex((day) => day.on === on)
const columns = computed(() => `150px repeat(${days.value.length}, minmax(0, 1fr))`)
const wide = computed(() => days.value.length <= 14)
const MARKS = 3
interface Cell {
  marks: Coming[]
  more: number
  later: Coming[]
}
const cells = computed(() =>
  props.view.systems.map((system) =>
    days.value.map((day): Cell => {
      const falls = system.coming.filter((one) => one.on === day.on)
      const marks = falls.filter((one) => one.first)
      return { marks: marks.slice(0, MARKS), more: marks.length - MARKS, later: falls.filter((one) => !one.first) }
    }),
  ),
)
/** Bands of days between which something may fall. */
const bands = computed(() =>
  props.view.systems.map((system) =>
    system.coming
      .filter((one) => one.first && one.between)
      .map((one) => {
        const [from, to] = one.between as unknown as [string, string]
        const last = days.value.length - 1
        return { from: Math.max(0, place(from)), to: place(to) < 0 ? last : place(to), says: one.name }
      }),
  ),
)
const most = computed(() => Math.max(60, ...days.value.map((day) => day.minutes)))

/** What is on its way to another day: by hand, or by the keys. */
const carried = shallowRef<{ system: string; one: Coming; to: number; dragged: boolean }>()
const target = computed(() => {
  const at = carried.value
  const day = at && days.value[at.to]
  return at && day ? { ...onDay(at.one, day, dayName(at.one.until)), day } : null
})
const grid = ref<HTMLElement>()
let pressed: { x: number; moved: boolean } | undefined
function down(event: PointerEvent, system: string, one: Coming) {
  if (!one.movable || props.view.child) return
  pressed = { x: event.clientX, moved: false }
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  carried.value = { system, one, to: place(one.on), dragged: true }
}
function drag(event: PointerEvent) {
  if (!pressed || !carried.value || !grid.value) return
  if (Math.abs(event.clientX - pressed.x) > 6) pressed.moved = true
  if (!pressed.moved) return
  const heads = [...grid.value.querySelectorAll<HTMLElement>('[data-day]')]
  const at = heads.findIndex((head) => event.clientX < head.getBoundingClientRect().right)
  carried.value = { ...carried.value, to: at < 0 ? days.value.length - 1 : Math.max(0, at) }
}
function up() {
  const moved = pressed?.moved
  pressed = undefined
  if (moved) drop()
  else carried.value = undefined
  return moved
}
let dropped = 0
function drop() {
  const [at, there] = [carried.value, target.value]
  carried.value = undefined
  dropped = Date.now()
  if (!at || !there || there.day.on === at.one.on) return
  if (there.fits) emit('move', at.system, at.one, there.day.on)
  else emit('refused', `${at.one.name} stays where it is. ${there.says}`)
}
function click(system: string, one: Coming) {
  // The end of a drag is no click.
  if (Date.now() - dropped < 300) return
  if (one.movable && !props.view.child) emit('ask', system, one)
}
function key(event: KeyboardEvent, system: string, one: Coming) {
  const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  const mine = carried.value?.one === one
  if (step && one.movable && !props.view.child) {
    event.preventDefault()
    const from = mine ? carried.value!.to : place(one.on)
    carried.value = { system, one, to: Math.min(days.value.length - 1, Math.max(0, from + step)), dragged: false }
  } else if (mine && (event.key === 'Enter' || event.key === ' ')) {
    event.preventDefault()
    drop()
  } else if (mine && event.key === 'Escape') {
    event.preventDefault()
    carried.value = undefined
  }
}
const leave = () => {
  if (carried.value && !carried.value.dragged) carried.value = undefined
}
const label = (one: Coming) =>
  `${one.name}, ${dayName(one.on)}${one.on > one.due_on ? `, due ${dayName(one.due_on)}` : ''}, can wait until ${dayName(one.until)}`
const litres = (day: Schemas['AheadDay']) => Math.round(props.units.toVolume(day.litres))
const headSaid = (on: string) => new Date(`${on}T12:00`).toLocaleDateString('en-GB', { weekday: 'narrow' })
</script>

<template>
  <div>
    <div ref="grid" class="grid" :class="{ wide }" :style="{ gridTemplateColumns: columns }" @focusout="leave">
      <span class="corner small quiet" style="grid-row: 1">{{ wide ? 'Minutes a day' : 'min' }}</span>
      <div
        v-for="(day, n) in days"
        :key="day.on"
        :data-day="day.on"
        :style="{ gridColumn: n + 2 }"
        class="day"
        :class="{ closed: !day.open, target: carried?.to === n, bad: carried?.to === n && !target?.fits }"
      >
        <span class="num small">{{ headSaid(day.on) }}</span>
        <strong class="num">{{ Number(day.on.slice(8)) }}</strong>
        <span class="bar" :style="{ height: `${Math.round((40 * day.minutes) / most)}px` }"></span>
        <span v-if="wide && day.minutes" class="num small">{{ day.minutes }}</span>
      </div>
      <template v-for="(system, row) in view.systems" :key="system.id">
        <RouterLink class="name" :to="`/system/${system.id}`" :style="{ gridRow: row + 2 }">{{
          system.name
        }}</RouterLink>
        <span
          v-for="(day, n) in days"
          :key="day.on"
          class="cell"
          :class="{
            closed: !day.open,
            target: carried?.system === system.id && carried.to === n,
            bad: !target?.fits,
          }"
          :style="{ gridRow: row + 2, gridColumn: n + 2 }"
        >
          <span
            v-if="cells[row]![n]!.later.length"
            class="later"
            :title="cells[row]![n]!.later.map((one) => one.name).join(', ')"
            ><span class="hidden">then: {{ cells[row]![n]!.later.map((one) => one.name).join(', ') }}</span></span
          >
          <button
            v-for="one in cells[row]![n]!.marks"
            :key="one.code"
            type="button"
            class="mark"
            :class="{
              heavy: one.heavy,
              late: one.due_on < days[0]!.on,
              fixed: !one.movable,
              carried: carried?.one === one,
            }"
            :aria-label="label(one)"
            :title="label(one)"
            @pointerdown="down($event, system.id, one)"
            @pointermove="drag"
            @pointerup="up"
            @pointercancel="carried = undefined"
            @click="click(system.id, one)"
            @keydown="key($event, system.id, one)"
          >
            <span v-if="wide" class="word">{{ one.name }}</span>
          </button>
          <span v-if="cells[row]![n]!.more > 0" class="small quiet">+{{ cells[row]![n]!.more }}</span>
        </span>
        <span
          v-for="(band, n) in bands[row]"
          :key="`band-${n}`"
          class="band"
          :style="{ gridRow: row + 2, gridColumn: `${band.from + 2} / ${band.to + 3}` }"
          aria-hidden="true"
        ></span>
      </template>
      <span class="corner small quiet" :style="{ gridRow: view.systems.length + 2 }">{{ units.volume }} a day</span>
      <span
        v-for="(day, n) in days"
        :key="`l-${day.on}`"
        class="num small litres"
        :style="{ gridRow: view.systems.length + 2, gridColumn: n + 2 }"
        >{{ litres(day) || '' }}</span
      >
    </div>
    <p class="says small" aria-live="polite">
      <template v-if="carried && target"
        ><strong>{{ carried.one.name }}:</strong> {{ target.says }}
        <span v-if="!carried.dragged" class="quiet">{{
          target.fits ? 'Enter moves it, Escape leaves it.' : ''
        }}</span></template
      >
      <template v-else
        ><span class="key heavy"></span> heavy: a long job or much water <span class="key"></span> as it is due
        <span class="key dot"></span> reckoned on from it <span class="key hatch"></span> closed
        <span class="key range"></span> between these days, by the forecast. Drag a mark, or use the arrow keys on
        it.</template
      >
    </p>
  </div>
</template>

<style scoped>
.grid {
  display: grid;
  position: relative;
  align-items: stretch;
  border-bottom: 1px solid var(--line);
}
.corner {
  grid-column: 1;
  align-self: end;
  padding: 4px 0;
}
.day {
  display: grid;
  grid-row: 1;
  justify-items: center;
  align-content: end;
  min-height: 84px;
  line-height: 1.1;
  padding: 4px 0;
}
.bar {
  width: 60%;
  min-height: 0;
  background: var(--water);
  opacity: 0.55;
}
.name {
  grid-column: 1;
  align-self: center;
  display: flex;
  align-items: center;
  min-height: var(--touch);
  padding-right: 8px;
  font-weight: 650;
  color: var(--ink);
}
.cell {
  display: flex;
  flex-direction: column;
  justify-content: flex-start;
  align-items: center;
  gap: 3px;
  min-height: 56px;
  padding: 4px 2px;
  border-top: 1px solid var(--line);
  border-left: 1px solid var(--line);
}
.closed {
  background: repeating-linear-gradient(135deg, transparent 0 5px, var(--line) 5px 6px);
}
.target {
  background: var(--water-wash);
  outline: 2px solid var(--water);
  outline-offset: -2px;
}
.day.bad,
.target.bad {
  background: var(--alarm-wash);
  outline: 2px dashed var(--alarm);
}
.mark {
  display: block;
  width: 24px;
  height: 24px;
  padding: 0;
  border: 2px solid var(--ink-2);
  border-radius: 50%;
  background: var(--sheet);
  cursor: grab;
  touch-action: none;
}
.mark.fixed {
  cursor: default;
  border-style: dotted;
}
.mark.heavy {
  border-radius: 3px;
  border-color: var(--water);
  background: var(--water);
}
.mark.late {
  border-color: var(--alarm);
}
.mark.late.heavy {
  background: var(--alarm);
}
.mark.carried {
  opacity: 0.5;
}
.wide .mark {
  width: 100%;
  height: auto;
  min-height: 24px;
  padding: 2px 4px;
  border-width: 1px;
  border-left-width: 3px;
  border-radius: 3px;
  text-align: left;
}
.wide .mark.heavy {
  color: var(--paper);
}
.word {
  display: block;
  font-size: 13px;
  line-height: 1.15;
  overflow-wrap: anywhere;
}
.later {
  width: 8px;
  height: 8px;
  border-radius: 50%;
  background: var(--line-2);
}
.band {
  align-self: end;
  height: 5px;
  z-index: 1;
  background: var(--watch);
  opacity: 0.7;
  pointer-events: none;
}
.litres {
  padding: 4px 0;
  text-align: center;
}
.says {
  min-height: 48px;
  padding-top: 8px;
}
.key {
  display: inline-block;
  width: 13px;
  height: 13px;
  margin: 0 2px 0 10px;
  border: 2px solid var(--ink-2);
  border-radius: 50%;
  vertical-align: -2px;
}
.key.heavy {
  margin-left: 0;
  border-radius: 3px;
  border-color: var(--water);
  background: var(--water);
}
.key.dot {
  width: 8px;
  height: 8px;
  border: 0;
  background: var(--line-2);
  vertical-align: 0;
}
.key.hatch {
  border: 1px solid var(--line-2);
  border-radius: 0;
  background: repeating-linear-gradient(135deg, transparent 0 3px, var(--ink-2) 3px 4px);
}
.key.range {
  width: 18px;
  height: 5px;
  border: 0;
  border-radius: 0;
  background: var(--watch);
  vertical-align: 2px;
}
</style>
