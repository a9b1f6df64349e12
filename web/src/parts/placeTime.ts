/** Clock times at a place, whose zone need not be that of this device. */

interface Clock {
  day: string
  time: string
}

/** To make one takes far longer than to ask it. */
const clocks = new Map<string, Intl.DateTimeFormat>()
function clockOf(zone: string): Intl.DateTimeFormat {
  let clock = clocks.get(zone)
  if (!clock) {
    clock = new Intl.DateTimeFormat('en-GB', {
      timeZone: zone,
      hourCycle: 'h23',
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit',
    })
    clocks.set(zone, clock)
  }
  return clock
}

/** What the clock at the place says at an instant: its date and its time. */
export function clockAt(zone: string, at: Date): Clock {
  const parts = clockOf(zone).formatToParts(at)
  const of = (type: string) => parts.find((part) => part.type === type)?.value ?? ''
  return { day: `${of('year').padStart(4, '0')}-${of('month')}-${of('day')}`, time: `${of('hour')}:${of('minute')}` }
}

/** The day before or after one. */
export function dayFrom(day: string, by: number): string {
  const date = new Date(`${day}T12:00:00Z`)
  date.setUTCDate(date.getUTCDate() + by)
  return date.toISOString().slice(0, 10)
}

/** The instant at which the clock of a place shows a date and a time; null for what is neither.
 * A time that the clock skips is taken as the one an hour on; of two that it shows twice, the first is meant. */
export function instantAt(zone: string, day: string, time: string): Date | null {
  const wanted = Date.parse(`${day}T${time}:00Z`)
  if (Number.isNaN(wanted)) return null
  const shown = (at: number) => {
    const clock = clockAt(zone, new Date(at))
    return Date.parse(`${clock.day}T${clock.time}:00Z`)
  }
  const offsets = [-26, 0, 26].map((hours) => wanted + hours * 3_600_000).map((at) => shown(at) - at)
  const fits = offsets.map((offset) => wanted - offset).filter((at) => shown(at) === wanted)
  return new Date(fits.length ? Math.min(...fits) : wanted - Math.min(...offsets))
}

/** A moment with its day, as the clock of a zone has it; of this device where none is said. */
export const dayAndTime = (moment: string, zone?: string) =>
  new Date(moment).toLocaleString('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    ...(zone ? { timeZone: zone } : {}),
  })
