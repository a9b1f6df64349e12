/** A form that is sent once at a time: what was refused stands at its field, and what belongs to none under the form. */
import { computed, ref } from 'vue'
import { ApiError, sayRefusal, type Schemas } from '../api/client'

export function useSend(fields: string[]) {
  const busy = ref(false)
  const faults = ref<Schemas['Refusal'][]>([])
  const failed = ref('')
  const fault = (field: string) => sayRefusal(faults.value.find((one) => one.field === field)) ?? ''
  const rest = computed(() => [
    ...faults.value.filter((one) => !fields.includes(one.field)).map((one) => sayRefusal(one) ?? ''),
    ...(failed.value ? [failed.value] : []),
  ])
  async function send(what: () => Promise<unknown>) {
    if (busy.value) return
    busy.value = true
    faults.value = []
    failed.value = ''
    try {
      await what()
    } catch (error) {
      if (!(error instanceof ApiError)) throw error
      faults.value = error.fields
      if (!error.fields.length) failed.value = error.message
    } finally {
      busy.value = false
    }
  }
  return { busy, fault, rest, send }
}
