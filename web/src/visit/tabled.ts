/** Verdicts while Mopsel does not answer: each number looked up in the table that the core made when it last did. */
import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, as, ask, nowThere, type Schemas, type Verdict, type Visit } from '../api/client'
import { useKnowledge } from '../api/queries'
import { dayAndTime } from '../parts/placeTime'
import { unsent } from '../writes/queue'

type Table = Schemas['JudgingTable']
type Typed = Schemas['Typed']

export const judgingKey = (system: string, by: string | undefined) => ['judging', system, by]
export const readJudging = (system: string, by: string | undefined) =>
  ask(api.GET('/api/systems/{id}/judging', { params: { path: { id: system }, header: as(by) } }))

/** The numbers of a visit as the table knows them, each with the value in its unit. */
export function typedIn(visit: Visit, perMs: (scale: Schemas['EcScale']) => number | undefined): [Typed, number][] {
  const found: [Typed, number][] = []
  const { level, temperature, ph, ec, top_off } = visit
  const moved = !!top_off || visit.drained != null
  if (level && level.pump_ran !== false && !moved) {
    if (level.by === 'volume') found.push(['volume', level.litres])
    if (level.by === 'height') found.push(['height', level.height_mm])
  }
  if (temperature != null) found.push(['temperature', temperature])
  if (ph) found.push(ph.by === 'kit' ? ['ph_kit', ph.low] : ['ph', ph.value])
  const scale = ec && perMs(ec.scale)
  if (ec && scale && ec.compensated !== false) found.push(['ec', ec.value / scale])
  // With a level or a strength read on this visit it is another question.
  if (top_off?.water === 'plain' && !level && !ec && !visit.vessels && visit.drained == null)
    found.push(['added', top_off.litres])
  return found
}

/** What the table says of a number at a moment; nothing where it says nothing. */
export function lookUp(table: Table, typed: Typed, value: number, at: Date) {
  const row = table.rows.find((one) => one.typed === typed && at.getTime() <= Date.parse(one.until))
  return row?.ranges.find((range) => range.from <= value && value < range.below)
}

/** What can be said of the numbers of a visit by the table that this device keeps. */
export function useTabled(system: Ref<string>, who: Ref<string | undefined>, child: Ref<boolean>) {
  const { data: knowledge } = useKnowledge()
  const kept = useQuery({
    queryKey: computed(() => judgingKey(system.value, who.value)),
    queryFn: () => readJudging(system.value, who.value),
    enabled: () => !!who.value,
    retry: (_, error) => unsent(error),
    staleTime: 60_000,
  })
  return (visit: Visit): Verdict[] => {
    const table = kept.data.value
    // What is said to an adult is not shown to a child, whoever held the device when there was a connection.
    if (!table || table.child !== child.value) return []
    const at = nowThere()
    const per = (scale: Schemas['EcScale']) => knowledge.value?.scales.find((one) => one.key === scale)?.per_ms_cm
    return typedIn(visit, per).flatMap(([typed, value]) => {
      const found = lookUp(table, typed, value, at)
      if (!found) return []
      const { subject, code, tone, rank, finding, next } = found
      const sure = `By what was known on ${dayAndTime(table.made)}. Once it answers, Mopsel judges it again.`
      return [{ subject, code, tone, rank, finding, why: '', next, sure, slack_days: 0, stays: false }]
    })
  }
}
