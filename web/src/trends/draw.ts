/** A trend as an option of the chart library, in the colours of the page. */
import type { Schemas } from '../api/client'
import { kindsOf, SHAPES, type Point, type Quantity, type Trend } from './read'

export interface Palette {
  ink: string
  quiet: string
  line: string
  water: string
  deep: string
  wash: string
  alarm: string
  sheet: string
}

/** The page's colours as the canvas wants them. */
export function palette(): Palette {
  const probe = document.createElement('span')
  document.body.append(probe)
  const of = (name: string) => {
    probe.style.color = `var(--${name})`
    return getComputedStyle(probe).color
  }
  const found = {
    ink: of('ink'),
    quiet: of('ink-2'),
    line: of('line'),
    water: of('water'),
    deep: of('water-deep'),
    wash: of('water-wash'),
    alarm: of('alarm'),
    sheet: of('sheet'),
  }
  probe.remove()
  return found
}

export interface Drawn {
  trend: Trend
  deeds: Schemas['DeedView'][]
  from: number
  to: number
  x: (at: string) => number
  value: (quantity: Quantity, canonical: number) => number
  /** What stands beside a reading, where it is pointed at. */
  says: (point: Point) => string
  /** Whether there is little room. */
  narrow: boolean
  saysDeed: (deed: Schemas['DeedView']) => string
}

/** What is said beside what is pointed at: as text on the canvas, so that nothing that was typed is read as markup. */
export const pointedAt = (p: Palette) => ({
  trigger: 'item',
  renderMode: 'richText',
  confine: true,
  backgroundColor: p.sheet,
  borderColor: p.line,
  textStyle: { color: p.ink, fontSize: 15, fontFamily: 'Sofia Sans Variable, system-ui, sans-serif' },
})

const STEPPED: Quantity[] = ['drunk', 'eaten']
/** More readings than this are a line without dots. */
const DOTS = 220

const middle = (point: Point) => (point.low + point.high) / 2

export function drawn(d: Drawn, p: Palette) {
  const q = d.trend.quantity
  const y = (v: number) => d.value(q, v)
  const { points, estimate, bands } = d.trend
  const spread = points.filter((point) => point.low !== point.high)
  const line: unknown[] = []
  for (const point of points) {
    // A long silence is a gap: no line leads over it.
    if (point.gap) line.push([d.x(point.at) - 1, null])
    line.push({
      value: [d.x(point.at), y(middle(point))],
      ...(point.stale ? { symbol: 'diamond', symbolSize: 9, itemStyle: { color: p.sheet, borderColor: p.deep } } : {}),
    })
  }
  const areas = bands.map((band, n) => {
    const next = bands[n + 1]?.since
    const begins = Math.max(d.from, band.since ? d.x(band.since) : d.from)
    const ends = Math.min(d.to, next ? d.x(next) : d.to)
    return [
      { xAxis: begins, yAxis: y(band.low) },
      { xAxis: Math.max(begins, ends), yAxis: y(band.high) },
    ]
  })
  // A row for each sort of thing that was done, so that none hides another.
  const rows = kindsOf(d.deeds)
  const ROW = 12
  const upright = d.deeds.filter((deed) => deed.what === 'change' || deed.what === 'treatment')
  // Readings and bands rule the axis: a wide estimate runs out of the picture rather than flattening what was read.
  const all = points.flatMap((point) => [y(point.low), y(point.high)])
  const within = bands.flatMap((band) => [y(band.low), y(band.high)])
  const [least, most] = [Math.min(...all, ...within), Math.max(...all, ...within)]
  const room = (most - least || 1) * 0.15
  const floor = STEPPED.includes(q) || q === 'light' ? 0 : least - room
  return {
    animation: false,
    useUTC: true,
    textStyle: { fontFamily: 'Sofia Sans Variable, system-ui, sans-serif', color: p.quiet },
    grid: { left: 58, right: 14, top: 12 + rows.length * ROW, bottom: 26 },
    xAxis: {
      type: 'time',
      min: d.from,
      max: d.to,
      axisLine: { lineStyle: { color: p.line } },
      axisTick: { lineStyle: { color: p.line } },
      axisLabel: { color: p.quiet, fontSize: 13, hideOverlap: true },
      splitLine: { show: false },
    },
    yAxis: [
      {
        type: 'value',
        min: Math.max(q === 'ph' || q === 'ec' || q === 'volume' ? 0 : -Infinity, Number(floor.toPrecision(3))),
        max: Number((most + room).toPrecision(3)),
        splitNumber: 3,
        axisLabel: { color: p.quiet, fontSize: 13, showMinLabel: false, showMaxLabel: false },
        splitLine: { lineStyle: { color: p.line, opacity: 0.6 } },
      },
      { type: 'value', min: 0, max: 1, show: false },
    ],
    tooltip: pointedAt(p),
    dataZoom: [{ type: 'inside', filterMode: 'none', zoomOnMouseWheel: 'ctrl', moveOnMouseMove: 'shift' }],
    series: [
      {
        id: 'bands',
        type: 'line',
        silent: true,
        data: [],
        markArea: { silent: true, itemStyle: { color: p.wash }, data: areas },
        markLine: {
          silent: true,
          symbol: 'none',
          label: { show: false },
          data: upright.map((deed) => ({
            xAxis: d.x(deed.at),
            lineStyle:
              deed.what === 'change'
                ? { color: p.quiet, type: 'solid', width: 1.4 }
                : { color: p.alarm, type: 'dashed', width: 1.4 },
          })),
        },
      },
      ...(estimate.length
        ? [
            {
              id: 'least',
              type: 'line',
              silent: true,
              stack: 'estimate',
              symbol: 'none',
              lineStyle: { opacity: 0 },
              data: estimate.map((point) => [d.x(point.at), y(point.low)]),
            },
            {
              id: 'most',
              type: 'line',
              silent: true,
              stack: 'estimate',
              symbol: 'none',
              lineStyle: { opacity: 0 },
              areaStyle: { color: p.quiet, opacity: 0.16 },
              data: estimate.map((point) => [d.x(point.at), Math.max(0, y(point.high) - y(point.low))]),
            },
            {
              id: 'estimate',
              type: 'line',
              silent: true,
              symbol: 'none',
              lineStyle: { color: p.quiet, width: 1.2, type: [3, 3] },
              data: estimate.map((point) => [d.x(point.at), y(middle(point))]),
            },
          ]
        : []),
      {
        id: 'spread',
        type: 'custom',
        silent: true,
        data: spread.map((point) => [d.x(point.at), y(point.low), y(point.high)]),
        renderItem: (_: unknown, api: { value: (n: number) => number; coord: (at: number[]) => [number, number] }) => {
          const [x, low] = api.coord([api.value(0), api.value(1)])
          const [, high] = api.coord([api.value(0), api.value(2)])
          return { type: 'rect', shape: { x: x - 3, y: high, width: 6, height: low - high }, style: { fill: p.deep } }
        },
      },
      {
        id: 'readings',
        type: 'line',
        data: line,
        ...(STEPPED.includes(q) ? { step: 'start' } : {}),
        connectNulls: false,
        symbol: 'circle',
        symbolSize: 6,
        showSymbol: points.length <= DOTS,
        lineStyle: { color: p.water, width: 2 },
        itemStyle: { color: p.water },
        emphasis: { scale: 1.6 },
        tooltip: {
          formatter: ({ dataIndex }: { dataIndex: number }) => {
            // Breaks stand among the readings.
            const before = line.slice(0, dataIndex + 1).filter((one) => !Array.isArray(one)).length
            const point = points[before - 1]
            return point ? d.says(point) : ''
          },
        },
      },
      {
        id: 'deeds',
        type: 'scatter',
        yAxisIndex: 1,
        symbolSize: d.narrow ? 7 : 9,
        data: d.deeds.map((deed) => ({
          value: [d.x(deed.at), 1],
          symbol: SHAPES[deed.what],
          symbolOffset: [0, -8 - ROW * rows.indexOf(deed.what)],
          itemStyle: { color: deed.what === 'treatment' || deed.what === 'case' ? p.alarm : p.quiet },
        })),
        tooltip: { formatter: ({ dataIndex }: { dataIndex: number }) => d.saysDeed(d.deeds[dataIndex]!) },
      },
    ],
  }
}
