import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it, vi } from 'vitest'
import type { Hearable } from '../lib/hearing'
import { useMonitor } from './monitor'

const kept = new Map<string, string>()
beforeEach(() => {
  kept.clear()
  setActivePinia(createPinia())
  vi.stubGlobal('localStorage', {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => kept.set(k, v),
  })
})

it('hears what is usual, one alone, several, and the next pair after the last the first again', () => {
  const m = useMonitor()
  let of: Hearable = { open: [0, 1, 2, 3, 4], usual: [0, 1] }
  const now = () => m.heardOf(of)
  const next = () => (m.hearNext(of), now())
  expect(now()).toEqual([0, 1])
  m.hear(3, false, of)
  expect(now()).toEqual([3])
  m.hear(3, false, of)
  expect(now()).toEqual([0, 1])
  m.hear(4, true, of)
  expect(now()).toEqual([0, 1, 4])
  m.hear(0, true, of)
  expect(now()).toEqual([1, 4])
  m.heard = []
  expect([next(), next(), next(), next()]).toEqual([[2, 3], [4], [0, 1], [2, 3]])
  // of those that can be heard, whatever was chosen of another timeline
  m.heard = [3]
  of = { open: [0, 2, 4], usual: [0, 2] }
  expect([now(), next(), next()]).toEqual([[0, 2], [4], [0, 2]])
})

it('hears a mix in surround as a whole, then left and right, then the others', () => {
  const m = useMonitor()
  const of: Hearable = { open: [0, 2, 1, 3, 4, 5, 6], usual: [0, 1, 2, 3, 4, 5] }
  const next = () => (m.hearNext(of), m.heardOf(of))
  expect(m.heardOf(of)).toEqual([0, 1, 2, 3, 4, 5])
  expect([next(), next(), next(), next(), next()]).toEqual([[0, 2], [1, 3], [4, 5], [6], [0, 1, 2, 3, 4, 5]])
  m.hear(3, false, of)
  expect(next()).toEqual([4, 5])
})

it('keeps what is shown, but not what is compared', () => {
  useMonitor().toggle('waveform')
  useMonitor().compare(7)
  expect(useMonitor().against).toEqual({ kind: 'frame', frame: 7 })
  useMonitor().compare(9)
  expect(useMonitor().against).toBeNull()
  setActivePinia(createPinia())
  expect(useMonitor().waveform).toBe(false)
  useMonitor().load()
  expect([useMonitor().waveform, useMonitor().safe]).toEqual([true, false])
})
