import { useQuery } from '@tanstack/vue-query'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { readAnew } from '../../src/writes/anew'
import { connect, openPage, pass } from './page'

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'setInterval', 'clearInterval', 'Date'] })
  localStorage.clear()
  connect(true)
})
afterEach(() => {
  vi.useRealTimers()
})

test('a page that was asked for before a write arrived shows what came of it', async () => {
  let there = 'planted'
  // The server looks when the question comes; the answer is on its way for a second.
  const look = () => {
    const then = there
    return new Promise<string>((answer) => setTimeout(() => answer(then), 1000))
  }
  const page = openPage(() => useQuery({ queryKey: ['system'], queryFn: look }))
  await pass(500)
  there = 'picked'
  void readAnew(page.client)
  await pass(600)
  await pass(1000)
  expect(page.held.data.value).toBe('picked')
  page.leave()
})
