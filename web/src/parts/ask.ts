/** A question that is asked before something is thrown away that cannot be brought back. */
import { shallowRef } from 'vue'

export interface Question {
  title: string
  text: string
  yes: string
  no: string
  then: () => unknown
}
export const asking = shallowRef<Question | null>(null)
export const askFirst = (question: Question) => (asking.value = question)
