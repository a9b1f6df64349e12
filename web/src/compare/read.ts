/** What is compared, by its name and by how it is measured. */
import type { Schemas } from '../api/client'
import type { Quantity } from '../trends/read'

type What = Schemas['Compared']
const NAMES: Record<What, string> = {
  drunk: 'Water drunk a day',
  eaten: 'Nutrients taken up a day',
  ph: 'pH',
  ec: 'EC',
  temperature: 'Water temperature',
  picked: 'Picked so far',
}
export const nameOf = (what: What) => NAMES[what]
/** Grams are measured as what was taken up is. */
export const measureOf = (what: What): Quantity => (what === 'picked' ? 'eaten' : what)
