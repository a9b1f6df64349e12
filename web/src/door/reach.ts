/** Where phones find this. */
import { useQuery } from '@tanstack/vue-query'
import { api, ask } from '../api/client'

export const useReach = () =>
  useQuery({ queryKey: ['reach'], queryFn: () => ask(api.GET('/api/session/reach')), staleTime: Infinity })

/** Whether a page stands under an address that opens on its own computer only. */
export const isHereOnly = (origin: string) => /^https?:\/\/(localhost|127\.|\[::1\])/.test(origin)
