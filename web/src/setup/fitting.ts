/** What of a system's form follows from something else in it, as it is typed. The core refuses what does not fit. */
import { computed, watch, type Ref } from 'vue'
import type { Schemas } from '../api/client'
import { useChoices } from '../api/queries'

type Form = Pick<Schemas['System'], 'traits' | 'refill' | 'methods'>

/** How far a refill may raise the water: of water that moves not at all, of still water each way but that. */
export function useFitting(form: Form, knowledge: Ref<Schemas['Knowledge'] | undefined>) {
  const choices = useChoices()
  const still = computed(() => !form.traits.circulates && !form.traits.aerated && !form.traits.to_waste)
  watch(still, (now) => {
    const usual = knowledge.value?.usual_refill
    if (!usual) return
    if (now && form.refill === usual.moved) form.refill = usual.still
    else if (!now && form.refill === usual.still) form.refill = usual.moved
  })
  /** What is fed to waste does not come back, and the plants get what is in the vessel. */
  watch(
    () => form.traits.to_waste,
    (now) => {
      if (!now) return
      form.traits.circulates = false
      form.refill = knowledge.value?.usual_refill.moved ?? form.refill ?? 'no_limit'
      const top_off = form.methods?.top_off ?? 'plain'
      if (top_off === 'plain' || top_off === 'light_feed') form.methods = { ...form.methods, top_off: 'same_strength' }
    },
  )
  watch(
    () => form.traits.circulates,
    (now) => now && (form.traits.to_waste = false),
  )
  const refills = computed(() =>
    choices<Schemas['RefillMethod']>('refill').filter(({ key }) =>
      form.traits.to_waste
        ? key === knowledge.value?.usual_refill.moved
        : !still.value || key !== knowledge.value?.usual_refill.moved,
    ),
  )
  return { refills }
}
