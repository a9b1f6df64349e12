<script setup lang="ts">
/** One quantity over time: drawn, pointed at by hand or by arrow keys, told in a sentence, and shown as a table. */
import { CustomChart, LineChart, ScatterChart } from 'echarts/charts'
import {
  DataZoomInsideComponent,
  GridComponent,
  MarkAreaComponent,
  MarkLineComponent,
  TooltipComponent,
} from 'echarts/components'
import { init, use, type EChartsType } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import CsvButtons from '../parts/CsvButtons.vue'
import { theme } from '../parts/theme'
import { drawn, palette } from './draw'
import { bandAt, deedName, nameOf, sayWhen, useReading, wallClock, type Point, type Trend } from './read'

use([
  LineChart,
  ScatterChart,
  CustomChart,
  GridComponent,
  TooltipComponent,
  DataZoomInsideComponent,
  MarkAreaComponent,
  MarkLineComponent,
  CanvasRenderer,
])

const props = defineProps<{ trend: Trend; view: Schemas['TrendsView'] }>()
const { unitOf, value, spanned } = useReading(computed(() => props.view))
const place = ref<HTMLElement>()
let chart: EChartsType | undefined
const name = computed(() => nameOf(props.trend.quantity))
const when = computed(() => sayWhen(props.view.zone))
const x = computed(() => wallClock(props.view.zone))
const read = (point: Point) => spanned(props.trend.quantity, point.low, point.high)
const wanted = (point: Point) => {
  const band = bandAt(props.trend.bands, point.at)
  return band ? spanned(props.trend.quantity, band.low, band.high) : ''
}
const says = (point: Point) =>
  [
    `${when.value(point.at)}: ${read(point)}`,
    wanted(point) && `wanted ${wanted(point)}`,
    point.stale && 'the meter was out of date',
  ]
    .filter(Boolean)
    .join(', ')

function draw() {
  if (!place.value) return
  chart ??= init(place.value)
  const ends = Date.parse(`${props.view.to}T00:00Z`) + 86_400_000
  chart.setOption(
    drawn(
      {
        trend: props.trend,
        deeds: props.view.deeds,
        from: Date.parse(`${props.view.from}T00:00Z`),
        to: ends,
        x: x.value,
        value,
        says,
        narrow: place.value.clientWidth < 600,
        saysDeed: (deed) => wrapped(`${when.value(deed.at)}, ${deedName(deed.what).toLowerCase()}: ${deed.said}`),
      },
      palette(),
    ) as Parameters<EChartsType['setOption']>[0],
    { notMerge: true },
  )
}
/** A long sentence in lines that fit beside the hand. */
const wrapped = (text: string) => text.replace(/(.{28,44}?)\s/g, '$1\n')
let watching: ResizeObserver | undefined
onMounted(() => {
  draw()
  watching = new ResizeObserver(() => chart?.resize())
  if (place.value) watching.observe(place.value)
  window.addEventListener('beforeprint', fit)
})
const fit = () => chart?.resize()
onBeforeUnmount(() => {
  window.removeEventListener('beforeprint', fit)
  watching?.disconnect()
  chart?.dispose()
})
watch([() => props.trend, () => props.view, theme], () => void nextTick(draw))

/** By keys from reading to reading. */
const at = ref<number | null>(null)
watch(
  () => props.trend,
  () => (at.value = null),
)
const told = computed(() => (at.value === null ? '' : says(props.trend.points[at.value]!)))
function key(event: KeyboardEvent) {
  const last = props.trend.points.length - 1
  const now = at.value ?? last + 1
  const to = { ArrowLeft: now - 1, ArrowRight: now + 1, Home: 0, End: last }[event.key]
  if (event.key === 'Escape') at.value = null
  if (to === undefined) return
  event.preventDefault()
  at.value = Math.min(last, Math.max(0, to))
  // Breaks stand among the readings.
  const breaks = props.trend.points.slice(0, at.value + 1).filter((point) => point.gap).length
  chart?.dispatchAction({ type: 'showTip', seriesId: 'readings', dataIndex: at.value + breaks })
}

const open = ref(false)
const unit = computed(() => unitOf(props.trend.quantity))
const table = computed(() => {
  const of = unit.value ? ` [${unit.value}]` : ''
  const head = [
    'time',
    `${name.value}, low${of}`,
    `${name.value}, high${of}`,
    `wanted, low${of}`,
    `wanted, high${of}`,
    'meter out of date',
  ]
  const q = props.trend.quantity
  return {
    head,
    rows: props.trend.points.map((point) => {
      const band = bandAt(props.trend.bands, point.at)
      const range = band ? [value(q, band.low), value(q, band.high)] : [null, null]
      return [point.at, value(q, point.low), value(q, point.high), ...range, point.stale ? 'yes' : '']
    }),
  }
})
const fewer = computed(() => props.trend.points.length < props.trend.readings)
</script>

<template>
  <section class="trend" :aria-label="name">
    <div class="head">
      <h2>
        {{ name }} <span v-if="unit" class="small quiet">{{ unit }}</span>
      </h2>
      <p class="small" role="status">{{ told }}</p>
    </div>
    <p v-if="trend.told" class="told">{{ trend.told }}</p>
    <div
      ref="place"
      class="place"
      role="group"
      tabindex="0"
      :aria-label="`${name}, drawn: ${trend.readings} readings; the arrow keys go from one to the next`"
      @keydown="key"
    ></div>
    <details :open="open" @toggle="open = ($event.target as HTMLDetailsElement).open">
      <summary class="more">The same as a table</summary>
      <template v-if="open">
        <CsvButtons :name="`${view.name} ${name}`" :head="table.head" :rows="table.rows" />
        <p v-if="fewer" class="small quiet">
          {{ trend.points.length }} of {{ trend.readings }} readings: of each stretch the lowest and the highest. Choose
          fewer days to see all.
        </p>
        <div class="scroll" tabindex="0" role="region" :aria-label="`${name}, as a table`">
          <table>
            <thead>
              <tr>
                <th scope="col">When</th>
                <th scope="col">{{ name }}</th>
                <th v-if="trend.bands.length" scope="col">Wanted</th>
                <th scope="col">Besides</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="point in [...trend.points].reverse()" :key="point.at">
                <th scope="row">{{ when(point.at) }}</th>
                <td class="num">{{ read(point) }}</td>
                <td v-if="trend.bands.length" class="num quiet">{{ wanted(point) }}</td>
                <td class="small">{{ point.stale ? 'Meter out of date' : '' }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </template>
    </details>
  </section>
</template>

<style scoped>
.trend {
  display: grid;
  gap: 4px;
  min-width: 0;
  padding-top: 10px;
  border-top: 3px solid var(--water);
}
.told {
  font-size: 18px;
  max-width: 70ch;
}
.place {
  height: 220px;
  min-width: 0;
}
.head {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: baseline;
  gap: 0 16px;
}
.doing {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  padding: 8px 0;
}
.scroll {
  max-height: 420px;
  overflow: auto;
}
table {
  border-collapse: collapse;
}
th,
td {
  padding: 5px 16px 5px 0;
  border-bottom: 1px solid var(--line);
  text-align: left;
  font-weight: 500;
  white-space: nowrap;
}
@media (max-width: 600px) {
  .place {
    height: 190px;
  }
}
@media print {
  .trend {
    break-inside: avoid;
  }
  details,
  .head p {
    display: none;
  }
}
</style>
