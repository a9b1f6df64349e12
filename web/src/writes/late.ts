/** What something was a moment ago, when it has stood still since: so that not every key is asked about. */
import { onScopeDispose, ref, watch, type Ref } from 'vue'

export function useLate<T>(now: () => T, pause: number): Ref<T> {
  const late = ref(now()) as Ref<T>
  let timer: ReturnType<typeof setTimeout> | undefined
  watch(now, (value) => {
    clearTimeout(timer)
    timer = setTimeout(() => (late.value = value), pause)
  })
  onScopeDispose(() => clearTimeout(timer))
  return late
}
