/** The people who may have an account: adults who are there, each with their place. */
import type { Schemas } from '../api/client'
import type { Somebody } from './WhoAtPlaces.vue'

export function adultsOf(places: Schemas['PlaceView'][]): Somebody[] {
  return places
    .filter((place) => !place.card.archived)
    .flatMap(({ card, people }) =>
      people.flatMap((one) => {
        if (one.archived || one.body.card !== 'person' || one.body.role === 'child' || card.body.card !== 'place')
          return []
        const { name, role } = one.body
        return [{ person: one.id, name, role, place: card.id, place_name: card.body.name }]
      }),
    )
}
