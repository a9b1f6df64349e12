/** The address of where a task is done. */
import type { RouteLocationRaw } from 'vue-router'
import type { Schemas } from '../api/client'

export function pathOf(way: Schemas['Way'], system: string): RouteLocationRaw {
  const part = way.part ?? ''
  if (way.to === 'system') return { path: '/set-up', query: { system, part: 'system' } }
  if (way.to === 'plantings') return { path: '/set-up', query: { system, part: 'plantings' } }
  if (way.to === 'bench') return { path: '/bench', query: { for: part, system } }
  if (way.to === 'change') return { path: `/system/${system}/change`, query: part ? { as: part } : {} }
  return { path: `/system/${system}/visit`, query: part ? { step: part } : {} }
}
