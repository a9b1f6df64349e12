/** The place of a page, from its address; one that is not there is the first one. */
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { usePlaces } from '../api/queries'

export function usePlacePick(page: string) {
  const route = useRoute()
  const router = useRouter()
  const places = usePlaces()
  const here = computed(() => (places.data.value ?? []).filter((one) => !one.card.archived))
  const card = computed(() => here.value.find((one) => one.card.id === route.params.place) ?? here.value[0])
  const place = computed(() => card.value?.card.id ?? '')
  return {
    places,
    card,
    place,
    names: computed(() =>
      here.value.map((one) => ({ key: one.card.id, name: 'name' in one.card.body ? one.card.body.name : '' })),
    ),
    people: computed(() => (card.value?.people ?? []).filter((one) => !one.archived)),
    picked: computed({
      get: () => place.value,
      set: (to: string) => void router.push({ path: `/${page}/${to}`, query: route.query }),
    }),
  }
}
