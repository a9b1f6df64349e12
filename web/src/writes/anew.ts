/** Reading anew what a write has changed. */
import type { InvalidateQueryFilters, QueryClient } from '@tanstack/vue-query'

/**
 * Reads what is shown again. What is being read for the first time was asked before the write arrived: the library would
 * take that answer for the new one, and the page would show for good what is no longer so. It is asked once more.
 */
export async function readAnew(client: QueryClient, which: InvalidateQueryFilters = {}): Promise<void> {
  const underWay = client.getQueryCache().findAll({ ...which, fetchStatus: 'fetching' })
  const first = underWay.filter((query) => query.state.data === undefined)
  await client.invalidateQueries(which)
  await Promise.all(first.map(({ queryKey }) => client.invalidateQueries({ queryKey, exact: true })))
}
