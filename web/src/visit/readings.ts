/** The numbers of a visit as they are typed: each in the reader's unit, with its meter's scale. */
import { computed, ref, watch, type Ref } from 'vue'
import type { VisitJudged, Refusal, Schemas, SystemView, Visit } from '../api/client'
import { useKnowledge } from '../api/queries'
import { meterScale, phByKit, readsEc, scaleName, useKit, useUnits } from '../api/units'

/** What a part of a visit that holds numbers is given. */
export interface NumbersGiven {
  view: SystemView
  faults: Refusal[]
  judgement?: VisitJudged | null
  /** On one screen with the other numbers. */
  row?: boolean
  /** Of a day that is past: what is so now says nothing of it. */
  past?: boolean
}

/** What was read last of something, or what it is likely by now. */
function lastOf(view: SystemView, subject: string): string | undefined {
  const value = view.last.find((v) => v.subject === subject)
  return value && `${value.value.replace(/^about /, 'Likely ').replace(/^(?!Likely)/, 'Last ')}, ${value.when}`
}

export type LevelWay = Schemas['LevelReading']['by']

export function useLevel(view: Ref<SystemView>, visit: Ref<Visit>) {
  const units = useUnits(computed(() => view.value.units))
  const usual = computed<LevelWay>(() => (view.value.system.reservoir.shape.form === 'stated' ? 'volume' : 'height'))
  const way = ref<LevelWay>(visit.value.level?.by ?? usual.value)
  watch(
    () => visit.value.level?.by,
    (by) => by && (way.value = by),
  )
  watch(
    () => view.value.card.id,
    () => (way.value = visit.value.level?.by ?? usual.value),
  )
  /** What the empty vessel weighs is remembered on the device: it is the same at each visit. */
  const key = computed(() => `mopsel.tare.${view.value.card.id}`)
  const tareKg = ref<number | null>(Number(localStorage.getItem(key.value)) || null)
  const tare = computed<number | null>({
    get: () => (tareKg.value === null ? null : units.value.toWeight(tareKg.value)),
    set: (empty) => {
      tareKg.value = empty === null ? null : units.value.fromWeight(empty)
      if (tareKg.value !== null) localStorage.setItem(key.value, String(tareKg.value))
      put(typed.value, pumpRan.value)
    },
  })
  const pumpRan = computed({
    get: () => visit.value.level?.pump_ran ?? true,
    set: (ran: boolean) => put(typed.value, ran),
  })
  const hasPump = computed(() => (view.value.system.traits.drain_back ?? 0) > 0)
  const typed = computed<number | null>({
    get: () => {
      const level = visit.value.level
      if (!level) return null
      if (level.by === 'weight') return units.value.toWeight(level.weight)
      return level.by === 'height' ? units.value.toLength(level.height_mm) : units.value.toVolume(level.litres)
    },
    set: (value) => put(value, pumpRan.value),
  })
  function put(value: number | null, pump_ran: boolean) {
    if (value === null) visit.value.level = null
    else if (way.value === 'weight')
      visit.value.level = {
        by: 'weight',
        weight: units.value.fromWeight(value),
        tare: tareKg.value ?? 0,
        pump_ran,
      }
    else if (way.value === 'height')
      visit.value.level = { by: 'height', height_mm: units.value.fromLength(value), pump_ran }
    else visit.value.level = { by: 'volume', litres: units.value.fromVolume(value), pump_ran }
  }
  /** Another way of reading takes nothing of the old one along. */
  function read(by: LevelWay) {
    way.value = by
    visit.value.level = null
  }
  const label = computed(
    () =>
      ({ height: 'Height of the water', weight: 'Vessel and water weigh', volume: 'Water in the vessel' })[way.value],
  )
  const unit = computed(
    () => ({ height: units.value.length, weight: units.value.weight, volume: units.value.volume })[way.value],
  )
  return {
    way,
    usual,
    typed,
    tare,
    read,
    pumpRan,
    hasPump,
    label,
    unit,
    units,
    last: computed(() => lastOf(view.value, 'level')),
  }
}

export function useMeasured(view: Ref<SystemView>, visit: Ref<Visit>) {
  const units = useUnits(computed(() => view.value.units))
  const { bands, kitReading } = useKit()
  const ownKit = ref<boolean>()
  const kit = computed(() =>
    visit.value.ph ? visit.value.ph.by === 'kit' : (ownKit.value ?? phByKit(view.value.system.measuring)),
  )
  function turnKit() {
    ownKit.value = !kit.value
    visit.value.ph = null
  }
  const chosen = ref<Schemas['EcScale']>()
  const scale = computed(() => visit.value.ec?.scale ?? view.value.meter?.scale ?? chosen.value)
  const more = ref(false)
  const showPh = computed(() => more.value || !!visit.value.ph || view.value.system.measuring !== 'recipe_only')
  const showEc = computed(
    () => more.value || !!visit.value.ec || !!view.value.meter || readsEc(view.value.system.measuring),
  )
  const temperature = computed<number | null>({
    get: () => (visit.value.temperature == null ? null : units.value.toTemperature(visit.value.temperature)),
    set: (value) => (visit.value.temperature = value === null ? null : units.value.fromTemperature(value)),
  })
  const ph = computed<number | null>({
    get: () => (visit.value.ph?.by === 'meter' ? visit.value.ph.value : null),
    set: (value) => (visit.value.ph = value === null ? null : { by: 'meter', value }),
  })
  const band = computed<number | null>({
    get: () => (visit.value.ph?.by === 'kit' ? visit.value.ph.low : null),
    set: (low) => (visit.value.ph = kitReading(low)),
  })
  const ec = computed<number | null>({
    get: () => visit.value.ec?.value ?? null,
    set: (value) => {
      visit.value.ec =
        value === null || !scale.value
          ? null
          : { value, scale: scale.value, compensated: view.value.meter?.compensated ?? true }
    },
  })
  const scaled = computed({
    get: () => scale.value,
    set: (key) => {
      if (!key) return
      chosen.value = key
      if (visit.value.ec) visit.value.ec = { ...visit.value.ec, scale: key }
    },
  })
  const last = (subject: string) => lastOf(view.value, subject)
  return { units, kit, turnKit, bands, band, scale, scaled, more, showPh, showEc, temperature, ph, ec, last }
}

export function useTopOff(view: Ref<SystemView>, visit: Ref<Visit>, judgement: () => VisitJudged | null) {
  const units = useUnits(computed(() => view.value.units))
  const room = computed(() => judgement()?.room ?? view.value.room)
  const typed = computed<number | null>({
    get: () => (visit.value.top_off ? units.value.toVolume(visit.value.top_off.litres) : null),
    set: (value) =>
      (visit.value.top_off =
        value === null
          ? null
          : { ...(visit.value.top_off ?? { water: 'plain' as const }), litres: units.value.fromVolume(value) }),
  })
  const premixed = computed(() => view.value.last.find((value) => value.subject === 'premixed'))
  const waters = computed(() => [
    { key: 'plain' as const, name: 'Plain water' },
    { key: 'feed' as const, name: 'With feed' },
    ...(premixed.value ? [{ key: 'premixed' as const, name: `From the ${premixed.value.said}` }] : []),
  ])
  const water = computed({
    get: () => visit.value.top_off?.water ?? 'plain',
    set: (to) => {
      if (visit.value.top_off && to) visit.value.top_off = { litres: visit.value.top_off.litres, water: to }
    },
  })
  const { data: knowledge } = useKnowledge()
  const scale = computed(() => knowledge.value?.scales.find((s) => s.key === meterScale(view.value))?.per_ms_cm ?? 1)
  const strength = computed<number | null>({
    get: () => {
      const ec = visit.value.top_off?.water === 'feed' ? visit.value.top_off.ec : null
      return ec == null ? null : Number((ec * scale.value).toFixed(scale.value === 1 ? 3 : 0))
    },
    set: (value) => {
      const { top_off } = visit.value
      if (top_off)
        visit.value.top_off = { litres: top_off.litres, water: 'feed', ec: value === null ? null : value / scale.value }
    },
  })
  const hint = computed(() =>
    room.value
      ? judgement()?.kept
        ? 'Read the level first: somebody may have poured since.'
        : `Room for ${units.value.toVolume(room.value.litres)} ${units.value.volume} now. ${room.value.reason}`
      : 'Read the level first, to know how much fits.',
  )
  /** It is kept at 25 °C: a meter that does not correct by itself reads it only there. */
  const strengthHint = computed(() =>
    view.value.meter && !view.value.meter.compensated
      ? `The meter set here does not correct for temperature: read it at ${units.value.toTemperature(25)} ${units.value.temperature}, or leave it empty.`
      : undefined,
  )
  const unit = computed(() => scaleName(meterScale(view.value)))
  return { units, typed, waters, water, strength, strengthHint, unit, hint, room }
}
