import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it, vi } from 'vitest'
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

it('hears the first two, one alone, several, and the next pair after the last the first again', () => {
  const m = useMonitor()
  let open = [0, 1, 2, 3, 4]
  const of = () => m.heardOf(open)
  expect(of()).toEqual([0, 1])
  m.hear(3, false, open)
  expect(of()).toEqual([3])
  m.hear(3, false, open)
  expect(of()).toEqual([0, 1])
  m.hear(4, true, open)
  expect(of()).toEqual([0, 1, 4])
  m.hear(0, true, open)
  expect(of()).toEqual([1, 4])
  m.heard = []
  const pairs = Array.from({ length: 4 }, () => (m.hearNext(open), of()))
  expect(pairs).toEqual([[2, 3], [4], [0, 1], [2, 3]])
  // of those that can be heard, whatever was chosen of another timeline
  m.heard = [3]
  open = [0, 2, 4]
  expect([of(), (m.hearNext(open), of()), (m.hearNext(open), of())]).toEqual([[0, 2], [4], [0, 2]])
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
