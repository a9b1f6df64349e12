/** What the screens read, each under one key, so that a write can say what it touched. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import type { Ref } from 'vue'
import { api, ask } from './client'
import { closed } from '../door/session'
import { lastPicked } from '../parts/recorder'
import { readAnew } from '../writes/anew'

export const useRound = () =>
  useQuery({
    queryKey: ['round', lastPicked],
    queryFn: () => ask(api.GET('/api/round')),
    refetchInterval: 60_000,
    placeholderData: (before) => before,
  })

export const useKnowledge = () =>
  useQuery({
    queryKey: ['knowledge'],
    queryFn: () => ask(api.GET('/api/knowledge')),
    staleTime: Infinity,
    enabled: () => !closed.value,
  })

/** What can be chosen, in the core's order and words. */
export function useChoices() {
  const { data } = useKnowledge()
  return <K extends string>(list: string) => (data.value?.choices[list] ?? []) as { key: K; name: string }[]
}

/** What the bench can be asked for, as the core knows it. */
export function useBenchFacts() {
  const { data } = useKnowledge()
  return {
    purposes: () => data.value?.bench.purposes ?? [],
    examples: () => data.value?.bench.examples ?? [],
    usualPeroxide: () => data.value?.bench.usual_peroxide ?? '',
  }
}

export const usePlaces = () => useQuery({ queryKey: ['places'], queryFn: () => ask(api.GET('/api/places')) })

export const useSystem = (id: Ref<string>) =>
  useQuery({
    queryKey: ['system', id, lastPicked],
    queryFn: () => ask(api.GET('/api/systems/{id}', { params: { path: { id: id.value } } })),
    enabled: () => id.value !== '',
    placeholderData: (before, query) => (query?.queryKey[1] === id.value ? before : undefined),
  })

export const useShelf = () => useQuery({ queryKey: ['shelf'], queryFn: () => ask(api.GET('/api/shelf')) })

/** What is asked of something that is typed: it is asked anew when that changes, not when something was written. */
const ASKED = ['knowledge', 'plan', 'judge', 'guide', 'draft', 'change']

/** Forgets whatever a write may have changed. */
export function useRefresh() {
  const client = useQueryClient()
  return () => readAnew(client, { predicate: (query) => !ASKED.includes(String(query.queryKey[0])) })
}
