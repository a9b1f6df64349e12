/** Whether all may be called fine with one tap, and what is said where it may not. */
import { computed, type Ref } from 'vue'
import type { SystemView } from '../api/client'
import type { useVisit } from './useVisit'

export function useFine(v: ReturnType<typeof useVisit>, view: Ref<SystemView | undefined>) {
  /** Anything amiss that was pressed or typed, and what is not judged yet, takes “all fine” away. */
  const judged = computed(() => v.fresh.value && v.judgement.value !== null)
  const openCase = computed(() => view.value?.cases.find((one) => one.open))
  /** What was wrong at the last look, until somebody says that it is fixed. */
  const openFault = computed(() => {
    const found = view.value?.verdicts.find(({ verdict }) => verdict.subject === 'running' && verdict.tone !== 'fine')
    return found && !openCase.value ? found.verdict.finding.replace(/\.$/, '') : ''
  })
  const fine = computed(() =>
    judged.value ? v.judgement.value?.fine === true : !v.begun.value && !openFault.value && !openCase.value,
  )
  const says = computed(() =>
    fine.value
      ? 'Plants, sound and floor as they should be: one tap, done.'
      : !v.begun.value && openFault.value
        ? `At the last look: ${openFault.value}. Say at the first step whether that is fixed, and save that.`
        : !v.begun.value
          ? `${openCase.value?.name ?? 'A case'} is open here: say how it stands, at the roots or the plants, and save that.`
          : judged.value
            ? 'Something is amiss: close the visit with what you found, at its last step.'
            : 'What was typed is not judged yet: close the visit at its last step.',
  )
  return { fine, says, judged }
}
