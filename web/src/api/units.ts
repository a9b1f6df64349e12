/** Numbers in the reader's units. The factors come from the server; a value is rounded once, here. */
import { computed, type Ref } from 'vue'
import { useKnowledge } from './queries'
import type { Schemas } from './client'

/** The scales of EC meters, as they are said. */
export const SCALES: [Schemas['EcScale'], string][] = [
  ['ms_cm', 'mS/cm'],
  ['ppm500', 'ppm (500)'],
  ['ppm640', 'ppm (640)'],
  ['ppm700', 'ppm (700)'],
]
export const scaleName = (key: Schemas['EcScale'] | undefined) => SCALES.find((s) => s[0] === key)?.[1] ?? ''

/** The unit of an amount of product, as it is said. */
export const amountUnit = (unit: Schemas['AmountUnit']) => (unit === 'ml' ? 'mL' : 'g')

export type Units = ReturnType<typeof useUnits>['value']

const METRIC = { litres_per_unit: 1, volume: 'L', millimetres_per_unit: 1, length: 'mm', fahrenheit: false }

export function useUnits(key: Ref<Schemas['UnitSystem'] | undefined>) {
  const { data } = useKnowledge()
  return computed(() => {
    const facts = data.value?.units.find((unit) => unit.key === key.value) ?? METRIC
    const round = (value: number, digits: number) => Number(value.toFixed(digits))
    return {
      volume: facts.volume,
      length: facts.length,
      temperature: facts.fahrenheit ? '°F' : '°C',
      toVolume: (litres: number) => round(litres / facts.litres_per_unit, litres / facts.litres_per_unit < 10 ? 2 : 1),
      fromVolume: (value: number) => value * facts.litres_per_unit,
      toLength: (mm: number) => round(mm / facts.millimetres_per_unit, facts.millimetres_per_unit === 1 ? 0 : 2),
      fromLength: (value: number) => value * facts.millimetres_per_unit,
      toTemperature: (c: number) => round(facts.fahrenheit ? c * 1.8 + 32 : c, 1),
      fromTemperature: (value: number) => (facts.fahrenheit ? (value - 32) / 1.8 : value),
    }
  })
}
