import type { Ref } from 'vue'
import type { CardView, Schemas } from '../api/client'
import { useCard } from '../setup/cards'

/** What was picked whole stands there no more; what is given back stands there again. Where that cannot be set here, it
 * stays a task. */
export function useFreed(view: Ref<Schemas['SystemView'] | undefined>, child: Ref<boolean>) {
  const { edit } = useCard()
  return async (harvests: Schemas['Harvested'][]): Promise<() => Promise<void>> => {
    const whole = child.value ? [] : harvests.filter((one) => one.whole)
    const cards = whole.map(({ planting }) => view.value?.plantings.find((one) => one.id === planting))
    // All at once: what is on its way is kept through a reload.
    const freed = await Promise.all(
      cards.map(async (card): Promise<[CardView, CardView['body']] | null> => {
        if (card?.body.card !== 'planting') return null
        const after = await edit(card, { ...card.body, stage: 'done' })
        return after && [after, card.body]
      }),
    )
    return async () => {
      for (const one of freed) if (one) await edit(...one)
    }
  }
}
