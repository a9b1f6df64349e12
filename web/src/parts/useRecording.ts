/** Who records at a system's place: the person picked on this device, if they are still of that place. */
import { computed, type Ref } from 'vue'
import type { SystemView } from '../api/client'
import { recorderAt } from './recorder'

export function useRecording(view: Ref<SystemView | undefined>) {
  const card = computed(() => {
    const picked = recorderAt(view.value?.place.id)
    return view.value?.people.find((p) => p.id === picked && !p.archived)
  })
  const who = computed(() => card.value?.id)
  const child = computed(() => card.value?.body.card === 'person' && card.value.body.role === 'child')
  return { who, child }
}
