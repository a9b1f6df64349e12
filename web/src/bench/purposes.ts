/** What the bench is asked for, and which fields each purpose has. The rules live in the server. */
import type { Schemas } from '../api/client'

export type PurposeKey = Schemas['Purpose']['for']
export type FieldKind = 'volume' | 'ec' | 'ph' | 'percent' | 'temperature' | 'number'

export interface Field {
  key: string
  kind: FieldKind
  label: string
  hint?: string
}

export interface PurposeFacts {
  key: PurposeKey
  name: string
  group: 'Fill' | 'Correct' | 'Mix ahead' | 'Peroxide'
  /** Fields that the purpose itself has; those in `needs` have no default anywhere. */
  fields: Field[]
  needs: string[]
  /** Wanted only where there is no system to know them from. */
  alone: string[]
  feeds: boolean
  /** Whether it may be mixed in the vessel itself. */
  mixes?: boolean
}

const litres: Field = { key: 'litres', kind: 'volume', label: 'Water in the vessel' }

export const PURPOSES: PurposeFacts[] = [
  {
    key: 'top_off',
    name: 'Top-off',
    group: 'Fill',
    fields: [
      { key: 'from', kind: 'volume', label: 'Water that stands there' },
      { key: 'to', kind: 'volume', label: 'Fill up to' },
      { key: 'ec', kind: 'ec', label: 'EC that stands there' },
    ],
    needs: [],
    alone: ['from', 'to'],
    feeds: true,
  },
  {
    key: 'change',
    name: 'Change',
    group: 'Fill',
    fields: [
      { ...litres, label: 'Filled to, in all' },
      { key: 'heel', kind: 'volume', label: 'Old water left in' },
      { key: 'heel_ec', kind: 'ec', label: 'EC of the old water' },
    ],
    needs: [],
    alone: ['litres'],
    feeds: true,
    mixes: true,
  },
  {
    key: 'fresh_fill',
    name: 'Fresh fill',
    group: 'Fill',
    fields: [{ ...litres, label: 'Filled to' }],
    needs: [],
    alone: ['litres'],
    feeds: true,
    mixes: true,
  },
  {
    key: 'correction',
    name: 'EC',
    group: 'Correct',
    fields: [litres, { key: 'ec', kind: 'ec', label: 'EC now' }],
    needs: [],
    alone: ['litres', 'ec', 'target'],
    feeds: true,
  },
  {
    key: 'ph',
    name: 'pH',
    group: 'Correct',
    fields: [
      litres,
      { key: 'ph', kind: 'ph', label: 'pH now' },
      { key: 'aim', kind: 'ph', label: 'pH wanted', hint: '6.0 when left empty' },
      { key: 'jar_amount', kind: 'number', label: 'Jar test: mL that fixed it' },
      { key: 'jar_litres', kind: 'volume', label: 'Jar test: in so much water' },
    ],
    needs: ['ph'],
    alone: ['litres'],
    feeds: false,
  },
  {
    key: 'top_off_reservoir',
    name: 'Top-off reservoir',
    group: 'Mix ahead',
    fields: [{ ...litres, label: 'To be mixed' }],
    needs: ['litres'],
    alone: [],
    feeds: true,
    mixes: true,
  },
  {
    key: 'jug',
    name: 'Jug of feed',
    group: 'Mix ahead',
    fields: [{ ...litres, label: 'To be mixed' }],
    needs: ['litres'],
    alone: [],
    feeds: true,
    mixes: true,
  },
  {
    key: 'peroxide_dose',
    name: 'Dose',
    group: 'Peroxide',
    fields: [litres],
    needs: [],
    alone: ['litres'],
    feeds: false,
  },
  {
    key: 'root_bath',
    name: 'Root bath',
    group: 'Peroxide',
    fields: [{ ...litres, label: 'Bath to be made' }],
    needs: ['litres'],
    alone: [],
    feeds: false,
  },
  {
    key: 'dilution',
    name: 'Weaken',
    group: 'Peroxide',
    fields: [
      { key: 'from_percent', kind: 'percent', label: 'Strength on the bottle' },
      { key: 'to_percent', kind: 'percent', label: 'Strength wanted' },
      { ...litres, label: 'To be made, in all' },
    ],
    needs: ['from_percent', 'to_percent', 'litres'],
    alone: [],
    feeds: false,
  },
]

/** The bottle that a treatment is worked out for where no other is picked. */
export const USUAL_PEROXIDE = 'Root oxygen 3 %'

export const GROUPS = ['Fill', 'Correct', 'Mix ahead', 'Peroxide'] as const

/** Questions to start from, as they would be shared. */
export const EXAMPLES: [string, Record<string, string>][] = [
  [
    '46 L, with 4 L of old water at 2.6 mS/cm left in',
    { for: 'change', litres: '46', heel: '4', heel_ec: '2.6', target: '1.8' },
  ],
  [
    '60 L at 1.10 filled up to 80 L at 1.80',
    { for: 'top_off', from: '60', to: '80', ec: '1.1', method: 'measured', batch: '10', target: '1.8' },
  ],
  [
    'A dry three-part barrel, printed per 100 gallons',
    { for: 'jug', litres: '30', units: 'us', scale: 'ppm500', as_printed: '1' },
  ],
  ['Peroxide of 12 % weakened to 3 %', { for: 'dilution', from_percent: '12', to_percent: '3', litres: '2' }],
]
