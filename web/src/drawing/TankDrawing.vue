<script setup lang="ts">
/** A system in section: vessel, water line, air gap, roots, lines for minimum, working level and refill limit. */
import { computed, useId } from 'vue'
import type { Section } from '../api/client'
import { FORMS } from './forms'

const props = defineProps<{ section: Section; label: string; lines?: boolean }>()
const id = useId()
const form = computed(() => FORMS[props.section.form] ?? FORMS.tub!)
const box = computed(() => {
  const [x, y, w, h] = form.value.tank
  const inset = (w * (1 - Math.max(0.75, props.section.taper))) / 2
  return { x, y, w, h, inset, outline: `M${x} ${y}L${x + inset + 2} ${y + h}H${x + w - inset - 2}L${x + w} ${y}` }
})
const at = (share: number) => box.value.y + box.value.h * (1 - share)
/** The word "now" keeps clear of "limit" when the two lines are close. */
const nowBelow = computed(() => {
  const { water, limit } = props.section
  return water != null && limit != null && at(water) - at(limit) < 6 ? 6.5 : 2.4
})
const surface = computed(() => {
  if (props.section.water == null) return ''
  const { x, w } = box.value
  const y = at(Math.max(0.03, props.section.water))
  let path = `M${x - 40} ${y}`
  for (let i = 0; i < (w + 80) / 20; i++) path += 'q5 -2.4 10 0t10 0'
  return path
})
const body = computed(() => (surface.value ? `${surface.value}V150H${box.value.x - 40}Z` : ''))
/** The same water in a joined bucket, level as in the first. */
const twin = (left: number, right: number) => {
  const y = at(props.section.water ?? 0)
  const lean = (3 * (y - 66)) / 76
  return `M${left - 1 + lean} ${y}L${left + 2} 142H${right - 2}L${right + 1 - lean} ${y}Z`
}
const TINTS: Record<string, string> = { green: 'green', brown: 'brown', white_cloud: 'cloud' }
const tint = computed(() => TINTS[props.section.tint ?? ''] ?? 'clear')
const spots = computed(() => {
  const all = form.value.spots
  const planted = Math.max(props.section.planted > 0 ? 1 : 0, Math.round(all.length * props.section.planted))
  return all.map((spot, i) => ({ x: spot[0], y: spot[1], roots: spot[2], planted: i < planted }))
})
const strands = (x: number, y: number, length: number) =>
  [-5, -1.6, 1.6, 5]
    .map((d, i) => {
      const l = length * (i % 2 ? 1 : 0.78)
      return `M${x + d * 0.35} ${y + 3}q${d * 0.9} ${l * 0.45} ${d * 0.4} ${l}`
    })
    .join('')
const leaves = (x: number, y: number) =>
  `M${x} ${y}q-1 -9 -10 -13q1 10 10 13M${x} ${y}q1 -9 10 -13q-1 10 -10 13M${x} ${y}q-4 -10 0 -19q4 9 0 19`
</script>

<template>
  <svg class="tank" viewBox="0 0 160 150" role="img" :aria-label="label">
    <defs>
      <clipPath :id="`${id}-in`"><path :d="`${box.outline}Z`" /></clipPath>
    </defs>
    <g :clip-path="`url(#${id}-in)`">
      <rect class="air" :x="box.x" :y="box.y" :width="box.w" :height="box.h" />
      <g v-if="body" class="moving">
        <path class="water" :class="tint" :d="body" />
        <path class="surface" :d="surface" />
      </g>
      <g v-if="section.bubbles && section.water" class="bubbles">
        <circle
          v-for="n in 5"
          :key="n"
          :cx="box.x + (box.w * n) / 6"
          :cy="box.y + box.h - 8 - (n % 3) * 9"
          :r="1.4 + (n % 2)"
        />
      </g>
    </g>
    <g v-if="section.form === 'buckets'" class="others" aria-hidden="true">
      <path v-if="section.water" class="water" :class="tint" :d="twin(62, 98) + twin(109, 145)" />
      <path
        v-if="section.water"
        class="surface"
        :d="`M62.5 ${at(section.water)}H97.5M109.5 ${at(section.water)}H144.5`"
      />
    </g>
    <g class="thin"><path v-for="path in form.thin" :key="path" :d="path" /></g>
    <g v-for="(spot, i) in spots" :key="i">
      <path
        v-if="spot.planted"
        class="roots"
        :class="`stage-${section.roots ?? 'none'}`"
        :d="strands(spot.x, spot.y, spot.roots)"
      />
      <path v-if="spot.planted" class="leaf" :d="leaves(spot.x, spot.y)" />
      <circle v-else class="port" :cx="spot.x" :cy="spot.y" r="2.6" />
    </g>
    <g class="ink">
      <path :d="box.outline" />
      <path v-for="path in form.lines" :key="path" :d="path" />
    </g>
    <path class="minimum" :d="`M${box.x - 7} ${at(section.minimum)}h9`" />
    <path v-if="section.limit != null" class="limit" :d="`M${box.x - 5} ${at(section.limit)}h${box.w + 10}`" />
    <template v-if="lines">
      <text class="said" :x="box.x - 9" :y="at(section.minimum) + 2.4" text-anchor="end">min</text>
      <template v-if="section.limit != null && section.water != null">
        <path class="now" :d="`M${box.x + box.w} ${at(section.water)}h6`" />
        <text class="said" :x="box.x + box.w + 7" :y="at(section.water) + nowBelow">now</text>
      </template>
      <text v-if="section.limit != null" class="said limit-said" :x="box.x + box.w + 7" :y="at(section.limit) + 2.4">
        limit
      </text>
    </template>
    <text
      v-if="section.water == null"
      class="unknown"
      :x="box.x + box.w / 2"
      :y="box.y + box.h / 2 + 4"
      text-anchor="middle"
    >
      level not read yet
    </text>
  </svg>
</template>

<style scoped>
.tank {
  display: block;
  width: 100%;
  height: auto;
  overflow: visible;
}
.ink path {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.6;
  stroke-linejoin: round;
  stroke-linecap: round;
}
.thin path {
  fill: none;
  stroke: var(--line-2);
  stroke-width: 0.9;
}
.air {
  fill: var(--sheet);
}
.water {
  fill: var(--water-fill);
}
.water.green {
  fill: var(--algae);
}
.water.brown {
  fill: var(--brown);
}
.water.cloud {
  fill: var(--cloud);
}
.surface {
  fill: none;
  stroke: var(--water);
  stroke-width: 1.6;
}
.moving {
  animation: sway 7s ease-in-out infinite alternate;
}
@keyframes sway {
  to {
    transform: translateX(20px);
  }
}
.bubbles circle {
  fill: none;
  stroke: var(--water);
  stroke-width: 0.8;
}
.roots {
  fill: none;
  stroke-width: 1.5;
  stroke-linecap: round;
  stroke: var(--line-2);
}
.stage-0 {
  stroke: var(--root-0);
  paint-order: stroke;
  filter: drop-shadow(0 0 0.6px var(--ink-2));
}
.stage-1 {
  stroke: var(--root-1);
  stroke-width: 2.2;
}
.stage-2 {
  stroke: var(--root-2);
  stroke-width: 2.8;
}
.stage-3 {
  stroke: var(--root-3);
  stroke-width: 3.4;
}
.leaf {
  fill: var(--sheet);
  stroke: var(--leaf);
  stroke-width: 1.2;
  stroke-linejoin: round;
}
.port {
  fill: var(--sheet);
  stroke: var(--line-2);
  stroke-width: 1;
}
.minimum {
  stroke: var(--ink);
  stroke-width: 1.4;
}
.limit {
  stroke: var(--alarm);
  stroke-width: 1.4;
  stroke-dasharray: 4 3;
}
.said {
  font-size: 7px;
  fill: var(--ink-2);
  /* Where a word meets a line of the drawing, the line gives way. */
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 2.5px;
  stroke-linejoin: round;
}
.now {
  stroke: var(--water);
  stroke-width: 1.4;
}
.limit-said {
  fill: var(--alarm);
}
.unknown {
  font-size: 8px;
  fill: var(--ink-2);
}
</style>
