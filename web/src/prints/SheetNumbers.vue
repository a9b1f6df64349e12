<script setup lang="ts">
/** The lines of a visit sheet on which numbers are written: named as on the page where they are typed. */
import { computed, ref, toRef } from 'vue'
import type { SystemView, Visit } from '../api/client'
import { meterScale, scaleName, useScale, useUnits } from '../api/units'
import { useLevel, useMeasured } from '../visit/readings'

const props = defineProps<{ view: SystemView }>()
const blank = ref<Visit>({})
const here = toRef(props, 'view')
const level = useLevel(here, blank)
const read = useMeasured(here, blank)
const units = useUnits(computed(() => props.view.units))
const { onScale } = useScale(() => meterScale(props.view))
const bandOf = (quantity: string, say: (value: number) => number) => {
  const band = props.view.trends.find((trend) => trend.quantity === quantity)?.bands.at(-1)
  return band ? `wanted ${say(band.low)}–${say(band.high)}` : ''
}
interface Line {
  name: string
  unit: string
  last?: string
  wanted?: string
}
const lines = computed<Line[]>(() => {
  const { traits, drum_of } = props.view.system
  const drum = traits.top_off_reservoir && !drum_of
  const temperature = (c: number) => Number(units.value.toTemperature(c).toFixed(0))
  return [
    { name: level.label.value, unit: level.unit.value, last: level.last.value },
    ...(drum ? [{ name: 'Left in the top-off reservoir', unit: units.value.volume }] : []),
    {
      name: 'Water temperature',
      unit: units.value.temperature,
      last: read.last('temperature'),
      wanted: bandOf('temperature', temperature),
    },
    ...(read.showPh.value
      ? [{ name: 'pH', unit: '', last: read.last('ph'), wanted: bandOf('ph', (ph) => Number(ph.toFixed(1))) }]
      : []),
    ...(read.showEc.value
      ? [
          {
            name: 'EC',
            unit: scaleName(meterScale(props.view)),
            last: read.last('ec'),
            wanted: bandOf('ec', onScale),
          },
        ]
      : []),
    ...(traits.to_waste
      ? [
          { name: 'Run-off caught', unit: 'mL' },
          { name: 'Given to the same pots', unit: 'mL' },
          ...(read.showEc.value ? [{ name: 'EC of the run-off', unit: scaleName(meterScale(props.view)) }] : []),
          ...(read.showPh.value ? [{ name: 'pH of the run-off', unit: '' }] : []),
        ]
      : []),
    { name: 'Added', unit: units.value.volume },
  ]
})
</script>

<template>
  <ul class="numbers">
    <li v-for="line in lines" :key="line.name">
      <span
        ><strong>{{ line.name }}</strong>
        <span class="small quiet">{{ [line.last, line.wanted].filter(Boolean).join('; ') }}</span></span
      >
      <span class="write"><span class="blank"></span>{{ line.unit }}</span>
    </li>
  </ul>
</template>

<style scoped>
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
.numbers li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 220px;
  gap: 12px;
  align-items: end;
  min-height: 46px;
  padding: 6px 0;
}
.numbers .quiet {
  display: block;
}
.write {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 92px;
  gap: 8px;
  align-items: end;
}
.blank {
  height: 34px;
  border-bottom: 1px solid var(--ink-2);
}
@media (max-width: 600px) {
  .numbers li {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media print {
  .numbers li {
    break-inside: avoid;
  }
}
</style>
