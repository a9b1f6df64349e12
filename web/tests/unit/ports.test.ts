import { expect, test } from 'vitest'
import type { CardView } from '../../src/api/client'
import { portsOf, sayPorts, takenBy } from '../../src/setup/ports'

test('ports are read and said as they are typed', () => {
  expect([...portsOf('1-3, 7')]).toEqual([1, 2, 3, 7])
  expect(sayPorts([7, 1, 3, 2])).toBe('1-3, 7')
  expect([...portsOf('nine, 4-')]).toEqual([])
  expect(sayPorts([])).toBe('')
})

test('ports are taken by what grows, not by what is harvested, put away or being edited', () => {
  const planting = (id: string, ports: string, stage = 'vegetative', archived = false) =>
    ({ id, archived, body: { card: 'planting', crop: id, ports, stage } }) as unknown as CardView
  const taken = takenBy(
    [
      planting('Kale', '1-2'),
      planting('Mint', '3', 'done'),
      planting('Basil', '4', 'seedling', true),
      planting('Own', '5'),
    ],
    'Own',
  )
  expect([...taken]).toEqual([
    [1, 'Kale'],
    [2, 'Kale'],
  ])
})
