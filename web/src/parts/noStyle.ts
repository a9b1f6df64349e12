/** Stands in for PrimeVue's style injector: nothing is ever injected into the page. */
import { readonly, ref } from 'vue'

export function useStyle() {
  return {
    id: '',
    name: '',
    el: ref(null),
    css: ref(''),
    unload: () => {},
    load: () => {},
    isLoaded: readonly(ref(false)),
  }
}
