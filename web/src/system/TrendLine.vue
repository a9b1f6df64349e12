<script setup lang="ts">
/** One quantity over ten weeks, drawn over the band that it is held against. */
import { computed } from 'vue'
import type { Schemas, SystemView } from '../api/client'
import { deedName, nameOf, useReading } from '../trends/read'

const props = defineProps<{ trend: Schemas['Trend']; view: SystemView }>()
const points = computed(() => props.trend.points.map((p) => ({ at: Date.parse(p.at), low: p.low, high: p.high })))
/** Where it stands by the estimate, beside what was read. */
const about = computed(() => {
  const p = props.trend.about
  return p ? { at: Date.parse(p.at), low: p.low, high: p.high } : null
})
const { unitOf, shown } = useReading(computed(() => props.view))
const unit = computed(() => unitOf(props.trend.quantity))
const say = (canonical: number) => shown(props.trend.quantity, canonical)
const W = 600
const H = 72
const scale = computed(() => {
  const bands = props.trend.bands.flatMap((b) => [b.low, b.high])
  const guess = about.value ? [about.value.low, about.value.high] : []
  const all = [...points.value.flatMap((p) => [p.low, p.high]), ...bands, ...guess]
  const low = Math.min(...all)
  const high = Math.max(...all)
  const pad = (high - low || 1) * 0.12
  const to = Math.max(points.value.at(-1)?.at ?? 0, about.value?.at ?? 0)
  const from = Math.min(points.value[0]?.at ?? 0, to - 7 * 86_400_000)
  return {
    from,
    to,
    least: low,
    most: high,
    x: (at: number) => (W * (at - from)) / (to - from || 1),
    y: (value: number) => H - (H * (value - (low - pad))) / (high - low + 2 * pad),
  }
})
/** In so small a picture only what turns the water. */
const DEEDS: Schemas['DeedKind'][] = ['change', 'dose', 'treatment']
const dayOf = (at: number) =>
  new Date(at).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', timeZone: props.view.place_body.zone })
/** What was done, where it lies within the picture. */
const deeds = computed(() =>
  props.view.deeds
    .map((deed) => ({ ...deed, when: Date.parse(deed.at) }))
    .filter(({ what, when }) => DEEDS.includes(what) && when >= scale.value.from && when <= scale.value.to)
    .map(({ at, what, when }) => ({
      at,
      what,
      x: scale.value.x(when).toFixed(1),
      says: `${deedName(what)}, ${dayOf(when)}`,
    })),
)
const dates = computed(() => {
  const { from, to } = scale.value
  return [from, (from + to) / 2, to].map(dayOf)
})
const line = computed(() =>
  points.value
    .map(
      (p, i) => `${i ? 'L' : 'M'}${scale.value.x(p.at).toFixed(1)} ${scale.value.y((p.low + p.high) / 2).toFixed(1)}`,
    )
    .join(''),
)
const last = computed(() => points.value.at(-1))
const said = computed(() => {
  const p = last.value
  if (!p) return ''
  return p.low === p.high ? `${say(p.low)} ${unit.value}` : `${say(p.low)}–${say(p.high)} ${unit.value}`
})
/** The band that holds now; earlier ones are drawn where they held. */
const band = computed(() => props.trend.bands.at(-1))
const bandSaid = computed(() => (band.value ? `${say(band.value.low)}–${say(band.value.high)}` : ''))
/** Each band from the moment it held to the next one, within the picture. */
const strips = computed(() =>
  props.trend.bands.map(({ since, low, high }, i) => {
    const next = props.trend.bands[i + 1]?.since
    const within = (x: number) => Math.min(W, Math.max(0, x))
    const from = since ? within(scale.value.x(Date.parse(since))) : 0
    const to = next ? within(scale.value.x(Date.parse(next))) : W
    return {
      x: from,
      width: to - from,
      y: scale.value.y(high),
      height: Math.max(1, scale.value.y(low) - scale.value.y(high)),
    }
  }),
)
</script>

<template>
  <figure v-if="points.length">
    <figcaption>
      <span class="name">{{ nameOf(trend.quantity) }}</span> <span class="num">{{ said }}</span>
      <span v-if="bandSaid" class="small quiet"
        >{{ trend.quantity === 'volume' ? 'minimum–working' : 'band' }} {{ bandSaid }} {{ unit }}</span
      >
    </figcaption>
    <div class="plot">
      <span class="small quiet num ends" aria-hidden="true"
        ><span>{{ say(scale.most) }}</span
        ><span>{{ say(scale.least) }}</span></span
      >
      <svg
        :viewBox="`0 0 ${W} ${H}`"
        preserveAspectRatio="none"
        role="img"
        :aria-label="`${nameOf(trend.quantity)} over time, ${points.length} readings, last ${said}${about ? `, about ${say((about.low + about.high) / 2)} ${unit} by now` : ''}, band ${bandSaid}`"
      >
        <rect v-for="(strip, i) in strips" :key="i" class="band" v-bind="strip" />
        <path
          v-for="deed in deeds"
          :key="deed.at"
          class="deed"
          :class="deed.what"
          :d="`M${deed.x} 0V${H}`"
          vector-effect="non-scaling-stroke"
        >
          <title>{{ deed.says }}</title>
        </path>
        <path class="line" :d="line" vector-effect="non-scaling-stroke" />
        <path
          v-if="about && last"
          class="about"
          :d="`M${scale.x(last.at)} ${scale.y((last.low + last.high) / 2)}L${scale.x(about.at) - 3} ${scale.y((about.low + about.high) / 2)}M${scale.x(about.at) - 3} ${scale.y(about.low)}V${scale.y(about.high)}`"
          vector-effect="non-scaling-stroke"
        />
        <template v-for="p in points" :key="p.at">
          <path
            v-if="p.low !== p.high"
            class="span"
            :d="`M${scale.x(p.at)} ${scale.y(p.low)}V${scale.y(p.high)}`"
            vector-effect="non-scaling-stroke"
          />
        </template>
      </svg>
      <span class="small quiet dates" aria-hidden="true"
        ><span v-for="mark in dates" :key="mark">{{ mark }}</span></span
      >
    </div>
  </figure>
  <p v-else class="small quiet">{{ nameOf(trend.quantity) }}: no readings in these weeks.</p>
</template>

<style scoped>
figure {
  margin: 0;
}
figcaption {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
.name {
  font-weight: 650;
  min-width: 96px;
}
figcaption .num {
  font-size: 20px;
}
figcaption .small {
  margin-left: auto;
}
.plot {
  display: grid;
  grid-template-columns: 44px minmax(0, 1fr);
  gap: 2px 8px;
}
.ends {
  display: flex;
  flex-direction: column;
  justify-content: space-between;
  text-align: right;
  line-height: 1;
}
.dates {
  grid-column: 2;
  display: flex;
  justify-content: space-between;
}
.deed {
  stroke: var(--line-2);
  stroke-width: 1.2;
  fill: none;
}
.deed.dose {
  stroke-dasharray: 2 3;
}
.deed.treatment {
  stroke: var(--alarm);
  stroke-dasharray: 4 3;
}
svg {
  display: block;
  width: 100%;
  height: 84px;
  border-bottom: 1px solid var(--line-2);
}
.band {
  fill: var(--water-wash);
}
.line {
  fill: none;
  stroke: var(--water);
  stroke-width: 1.8;
}
.about {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 2;
  stroke-dasharray: 3 3;
}
.span {
  stroke: var(--water-deep);
  stroke-width: 5;
  fill: none;
}
</style>
