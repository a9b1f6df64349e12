/** The numbers of a trend as its reader reads them, and its times on the clock of the place. */
import { computed, type Ref } from 'vue'
import type { Schemas } from '../api/client'
import { clockAt } from '../parts/placeTime'
import { scaleFactor, scaleName, useUnits } from '../api/units'

export type Trend = Schemas['Trend']
export type Quantity = Schemas['Measured']
export type Point = Schemas['Point']

const NAMES: Record<Quantity, string> = {
  ph: 'pH',
  ec: 'EC',
  temperature: 'Water temperature',
  volume: 'Water in the vessel',
  drunk: 'Water drunk a day',
  eaten: 'Nutrients taken up a day',
  light: 'Light a day',
}
export const nameOf = (quantity: Quantity) => NAMES[quantity]

/** `view` says the units and the scale of its reader. */
export function useReading(view: Ref<Pick<Schemas['TrendsView'], 'units' | 'ec_scale'> | undefined>) {
  const units = useUnits(computed(() => view.value?.units))
  const scale = computed(() => view.value?.ec_scale ?? 'ms_cm')
  const unitOf = (quantity: Quantity) =>
    ({
      ph: '',
      ec: scaleName(scale.value),
      temperature: units.value.temperature,
      volume: units.value.volume,
      drunk: units.value.volume,
      eaten: 'g',
      light: 'h',
    })[quantity]
  const value = (quantity: Quantity, canonical: number): number => {
    if (quantity === 'ec')
      return Number((canonical * scaleFactor(scale.value)).toFixed(scale.value === 'ms_cm' ? 2 : 0))
    if (quantity === 'temperature') return units.value.toTemperature(canonical)
    if (quantity === 'volume' || quantity === 'drunk') return units.value.toVolume(canonical)
    return Number(canonical.toFixed(quantity === 'ph' ? 2 : 1))
  }
  /** As it is said: a pH always with its tenth. */
  const shown = (quantity: Quantity, canonical: number) =>
    quantity === 'ph' ? canonical.toFixed(1) : String(value(quantity, canonical))
  const spanned = (quantity: Quantity, low: number, high: number) => {
    const [from, to] = [shown(quantity, low), shown(quantity, high)]
    const unit = unitOf(quantity)
    return `${from === to ? from : `${from}–${to}`}${unit ? ` ${unit}` : ''}`
  }
  return { unitOf, value, shown, spanned }
}

/** A moment as the milliseconds of the same wall clock in UTC, so that days are those of the place. */
export const wallClock = (zone: string) => (at: string) => {
  const { day, time } = clockAt(zone, new Date(at))
  return Date.parse(`${day}T${time}Z`)
}

export const sayWhen = (zone: string) => {
  const format = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
  })
  return (at: string) => format.format(new Date(at))
}

/** The band that held at a time. */
export const bandAt = (bands: Trend['bands'], at: string) =>
  bands.filter((band) => !band.since || band.since <= at).at(-1) ?? (bands[0]?.since ? undefined : bands[0])

const DEEDS: Record<Schemas['DeedKind'], string> = {
  change: 'Reservoir change',
  dose: 'pH moved',
  treatment: 'Treatment',
  top_off: 'Water added',
  cleaning: 'Cleaning',
  case: 'Case opened',
}
export const deedName = (what: Schemas['DeedKind']) => DEEDS[what]
/** The shape of each on its line above the curve: no two are told apart by their hue alone. */
export const SHAPES: Record<Schemas['DeedKind'], string> = {
  change: 'rect',
  dose: 'triangle',
  treatment: 'diamond',
  top_off: 'path://M0 0L10 0L5 8Z',
  cleaning: 'circle',
  case: 'path://M4 0H6V4H10V6H6V10H4V6H0V4H4Z',
}
/** The sorts of what was done, what turns the water most first. */
export const kindsOf = (deeds: { what: Schemas['DeedKind'] }[]) =>
  (Object.keys(SHAPES) as Schemas['DeedKind'][]).filter((kind) => deeds.some((deed) => deed.what === kind))
