/** What a visit was asked about and said to be so: asked once, on whichever step it stands. */
import { inject, provide, reactive, type InjectionKey } from 'vue'

const KEY: InjectionKey<Set<string>> = Symbol('what was said to be so')

export function provideSaid(): Set<string> {
  const said = reactive(new Set<string>())
  provide(KEY, said)
  return said
}
export const useSaid = () => inject(KEY, () => reactive(new Set<string>()), true)
