/** A file on its way: how far it is, what came of it, and that it is not left behind unasked. */
import { onScopeDispose, ref, shallowRef } from 'vue'
import { onBeforeRouteLeave } from 'vue-router'
import { ApiError } from '../api/client'
import { Cancelled, sendFile, type Sending } from './send'

export function useSending<T>(what: string) {
  const sending = shallowRef<Sending<T> | null>(null)
  const share = ref(0)
  const failed = shallowRef<ApiError | null>(null)
  const came = shallowRef<T | null>(null)
  function forget() {
    failed.value = null
    came.value = null
  }
  /** Whether it was taken in. */
  async function send(path: string, type: string, file: Blob) {
    forget()
    share.value = 0
    sending.value = sendFile<T>(path, type, file, (now) => (share.value = now))
    try {
      came.value = await sending.value.done
      return true
    } catch (error) {
      if (!(error instanceof Cancelled)) failed.value = error instanceof ApiError ? error : new ApiError({})
      return false
    } finally {
      sending.value = null
    }
  }
  // Once it is sent whole, it is brought in whether or not anybody waits for the answer.
  onScopeDispose(() => share.value < 1 && sending.value?.cancel())
  onBeforeRouteLeave(
    () => !sending.value || share.value === 1 || window.confirm(`${what} is being brought in. Leave, and cancel it?`),
  )
  return { sending, share, failed, came, forget, send }
}
