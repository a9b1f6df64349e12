/** Numbers in the reader's units. The factors come from the server; a value is rounded once, here. */
import { computed, type Ref } from 'vue'
import { useKnowledge } from './queries'
import type { Schemas, SystemView } from './client'

/** The sign of a scale, as it stands behind a figure. */
const SIGNS: Record<Schemas['EcScale'], string> = {
  ms_cm: 'mS/cm',
  us_cm: 'µS/cm',
  ppm500: 'ppm (500)',
  ppm640: 'ppm (640)',
  ppm700: 'ppm (700)',
}
export const scaleName = (key: Schemas['EcScale'] | undefined) => (key ? SIGNS[key] : '')

/** What one mS/cm reads on a scale. */
const PER_MS_CM: Record<Schemas['EcScale'], number> = { ms_cm: 1, us_cm: 1000, ppm500: 500, ppm640: 640, ppm700: 700 }
export const scaleFactor = (key: Schemas['EcScale']) => PER_MS_CM[key]

/** The scale and the compensation of the meter that a system is measured with go with every EC typed there. */
export const meterScale = (view: SystemView) => view.meter?.scale ?? view.ec_scale
export const ecRead = (view: SystemView, value: number): Schemas['EcReading'] => ({
  value,
  scale: meterScale(view),
  compensated: view.meter?.compensated ?? true,
})

/** A strength as it stands on a scale, and back. */
export const useScale = (scale: () => Schemas['EcScale']) => ({
  onScale: (ec: number) => Number((ec * scaleFactor(scale())).toFixed(scale() === 'ms_cm' ? 2 : 0)),
  offScale: (read: number) => read / scaleFactor(scale()),
})

/** Whether EC is read here, and whether pH is told between two colours. */
export const readsEc = (measuring: Schemas['Measuring'] | undefined) =>
  measuring === 'meter' || measuring === 'kit_and_meter'
export const phByKit = (measuring: Schemas['Measuring'] | undefined) =>
  measuring === 'drop_kit' || measuring === 'kit_and_meter'

/** The colours of a drop kit for pH, and the reading between two of them. */
export function useKit() {
  const { data } = useKnowledge()
  const bands = computed(() => (data.value?.kit_bands ?? []).map((band) => ({ key: band.low, name: band.said })))
  const kitReading = (low: number | null) => {
    const band = data.value?.kit_bands.find((one) => one.low === low)
    return band ? { by: 'kit' as const, low: band.low, high: band.high } : null
  }
  return { bands, kitReading }
}

/** The unit of an amount of product, as it is said. */
export const amountUnit = (unit: Schemas['AmountUnit']) => (unit === 'ml' ? 'mL' : 'g')

export type Units = ReturnType<typeof useUnits>['value']

const METRIC = {
  litres_per_unit: 1,
  volume: 'L',
  millimetres_per_unit: 1,
  length: 'mm',
  kilograms_per_unit: 1,
  weight: 'kg',
  fahrenheit: false,
}

export function useUnits(key: Ref<Schemas['UnitSystem'] | undefined>) {
  const { data } = useKnowledge()
  return computed(() => {
    const facts = data.value?.units.find((unit) => unit.key === key.value) ?? METRIC
    const round = (value: number, digits: number) => Number(value.toFixed(digits))
    return {
      volume: facts.volume,
      length: facts.length,
      weight: facts.weight,
      temperature: facts.fahrenheit ? '°F' : '°C',
      toVolume: (litres: number) => round(litres / facts.litres_per_unit, litres / facts.litres_per_unit < 10 ? 2 : 1),
      fromVolume: (value: number) => value * facts.litres_per_unit,
      toLength: (mm: number) => round(mm / facts.millimetres_per_unit, facts.millimetres_per_unit === 1 ? 0 : 2),
      fromLength: (value: number) => value * facts.millimetres_per_unit,
      toWeight: (kg: number) => round(kg / facts.kilograms_per_unit, 1),
      fromWeight: (value: number) => value * facts.kilograms_per_unit,
      toTemperature: (c: number) => round(facts.fahrenheit ? c * 1.8 + 32 : c, 1),
      fromTemperature: (value: number) => (facts.fahrenheit ? (value - 32) / 1.8 : value),
    }
  })
}
