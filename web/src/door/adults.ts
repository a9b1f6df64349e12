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

/** Who is called so at several places is most likely one and the same: one at each, or nobody where it is not plain. */
export function calledSo(people: Somebody[], name: string): string[] {
  const plain = (text: string) => text.trim().toLowerCase()
  const same = people.filter((one) => plain(one.name) === plain(name))
  return new Set(same.map((one) => one.place)).size === same.length ? same.map((one) => one.person) : []
}
