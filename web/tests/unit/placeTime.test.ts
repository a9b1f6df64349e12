import { expect, test } from 'vitest'
import { clockAt, dayFrom, instantAt } from '../../src/parts/placeTime'

test('a place far from the device has its own clock', () => {
  const at = new Date('2027-03-09T20:30:00Z')
  expect(clockAt('Pacific/Auckland', at)).toEqual({ day: '2027-03-10', time: '09:30' })
  expect(clockAt('America/Chicago', at)).toEqual({ day: '2027-03-09', time: '14:30' })
})

test('a clock time at a place is one instant, and reads the same again', () => {
  for (const zone of ['Pacific/Auckland', 'America/Chicago', 'Europe/London', 'Asia/Kolkata', 'Pacific/Kiritimati'])
    for (const day of ['2027-01-01', '2027-03-13', '2027-03-28', '2027-07-01', '2027-10-31', '2028-02-29'])
      for (const time of ['00:00', '06:15', '12:00', '23:59']) {
        const at = instantAt(zone, day, time)!
        expect(clockAt(zone, at), `${zone} ${day} ${time}`).toEqual({ day, time })
      }
})

test('an hour that the clock skips is taken as the one after it; one shown twice as the first', () => {
  expect(instantAt('Europe/London', '2027-03-28', '01:30')?.toISOString()).toBe('2027-03-28T01:30:00.000Z')
  expect(instantAt('Europe/London', '2027-10-31', '01:30')?.toISOString()).toBe('2027-10-31T00:30:00.000Z')
  expect(instantAt('Europe/London', 'soon', '01:30')).toBeNull()
})

test('the day before the first of March', () => {
  expect(dayFrom('2028-03-01', -1)).toBe('2028-02-29')
  expect(dayFrom('2026-12-31', 1)).toBe('2027-01-01')
})
