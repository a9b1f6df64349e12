/** The id in the address of this page; stays what it was while the reader is on the way to a page without one. */
import { ref, watch } from 'vue'
import { useRoute } from 'vue-router'

export function useRouteId() {
  const route = useRoute()
  const id = ref(String(route.params.id))
  watch(
    () => route.params.id,
    (now) => {
      if (typeof now === 'string') id.value = now
    },
  )
  return id
}
