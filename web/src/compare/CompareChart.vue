<script setup lang="ts">
/** One quantity of several sides on one axis: days since each began, or the calendar. */
import { LineChart } from 'echarts/charts'
import { GridComponent, TooltipComponent } from 'echarts/components'
import { init, use, type EChartsType } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import { theme } from '../parts/theme'
import { palette, pointedAt } from '../trends/draw'
import { useReading, wallClock } from '../trends/read'
import { markOf } from './marks'
import { measureOf, nameOf } from './read'

use([LineChart, GridComponent, TooltipComponent, CanvasRenderer])
type What = Schemas['Compared']
const props = defineProps<{ view: Schemas['CompareView']; what: What; since: boolean }>()
const { value, spanned } = useReading(computed(() => props.view))
const place = ref<HTMLElement>()
let chart: EChartsType | undefined
const STEPPED: What[] = ['drunk', 'eaten', 'picked']

function draw() {
  if (!place.value) return
  chart ??= init(place.value)
  const p = palette()
  const measure = measureOf(props.what)
  const series = props.view.sides.map((side, n) => {
    const row = side.rows.find((one) => one.what === props.what)
    const clock = wallClock(side.zone)
    const mark = markOf(n)
    return {
      name: side.name,
      type: 'line',
      data: (row?.points ?? []).map((point) => [
        props.since ? point.day : clock(point.at),
        value(measure, (point.low + point.high) / 2),
      ]),
      ...(STEPPED.includes(props.what) ? { step: props.what === 'picked' ? 'end' : 'start' } : {}),
      symbol: mark.symbol,
      symbolSize: 7,
      showSymbol: (row?.points.length ?? 0) <= 120,
      lineStyle: { color: p[mark.hue], width: 2, type: mark.dash.length ? mark.dash : 'solid' },
      itemStyle: { color: p[mark.hue] },
      tooltip: {
        formatter: (at: { value: [number, number]; dataIndex: number }) => {
          const point = row?.points[at.dataIndex]
          const when = props.since ? `day ${Math.floor(at.value[0])}` : new Date(at.value[0]).toISOString().slice(0, 10)
          return point ? `${side.name}, ${when}: ${spanned(measure, point.low, point.high)}` : ''
        },
      },
    }
  })
  const font = { fontFamily: 'Sofia Sans Variable, system-ui, sans-serif' }
  const text = { color: p.quiet, fontSize: 13 }
  const line = { lineStyle: { color: p.line } }
  chart.setOption(
    {
      animation: false,
      useUTC: true,
      textStyle: { ...font, color: p.quiet },
      grid: { left: 58, right: 18, top: 14, bottom: props.since ? 44 : 26 },
      xAxis: {
        type: props.since ? 'value' : 'time',
        name: props.since ? 'days since it began' : '',
        nameLocation: 'middle',
        nameGap: 28,
        nameTextStyle: text,
        axisLine: line,
        axisTick: line,
        axisLabel: { ...text, hideOverlap: true },
        splitLine: { show: false },
      },
      yAxis: {
        type: 'value',
        scale: !STEPPED.includes(props.what),
        splitNumber: 4,
        axisLabel: text,
        splitLine: { lineStyle: { color: p.line, opacity: 0.6 } },
      },
      tooltip: pointedAt(p),
      series,
    } as Parameters<EChartsType['setOption']>[0],
    { notMerge: true },
  )
}
let watching: ResizeObserver | undefined
onMounted(() => {
  draw()
  watching = new ResizeObserver(() => chart?.resize())
  if (place.value) watching.observe(place.value)
})
onBeforeUnmount(() => {
  watching?.disconnect()
  chart?.dispose()
})
watch([() => props.view, () => props.what, () => props.since, theme], draw, { flush: 'post' })
</script>

<template>
  <div
    ref="place"
    class="chart"
    role="img"
    :aria-label="`${nameOf(what)} beside each other; the table says the same`"
  ></div>
</template>

<style scoped>
.chart {
  width: 100%;
  height: 320px;
}
@media (max-width: 640px) {
  .chart {
    height: 260px;
  }
}
</style>
