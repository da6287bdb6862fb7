import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it, vi } from 'vitest'
import type { ShownTimeline } from '../../contract/timelines'
import { makeRate } from '../../core/time/rate'
import { useEditor } from './editor'
import { useSplit } from './split'
import { useSplitting } from './splitting'
import { useTimelines } from './timelines'

const event = (from: number, to: number, name: string) => ({
  ...{ track: 'V', kind: 'video' as const, name, reel: name, file: null, source: null, transition: null },
  speed: { num: 1, den: 1 },
  record: { in: from, out: to },
})
const timeline = {
  id: 't',
  name: 'Reel',
  model: {
    ...{ name: 'Reel', rate: makeRate(25), dropFrame: false, start: 0, length: 300, markers: [] },
    tracks: [{ name: 'V', kind: 'video' as const }],
    events: [event(0, 100, 'wide'), event(100, 180, 'close'), event(180, 300, 'gannets')],
  },
  split: { regions: [{ id: 'a', name: 'A', in: 100, out: 180, metadata: {} }], markers: [] },
  splitVersion: 1,
  info: { video: [], audio: [] },
  analysis: { pictures: null, sound: null, progress: 0 },
} as unknown as ShownTimeline

beforeEach(() => {
  setActivePinia(createPinia())
  const none = { getItem: () => null, setItem: () => undefined, removeItem: () => undefined }
  vi.stubGlobal('localStorage', none)
  vi.stubGlobal('sessionStorage', none)
  vi.stubGlobal('fetch', () => Promise.resolve(Response.json({ version: 2 })))
  useTimelines().all = [timeline]
  useTimelines().choose('t')
  useEditor().lay(timeline)
})

const shown = () => useSplitting().proposals.map((p) => [p.in, p.taken])

it('proposes what is not there yet, and lets each be turned by hand', () => {
  const splitting = useSplitting()
  expect(shown()).toEqual([
    [0, true],
    [100, false],
    [180, true],
  ])
  splitting.turn(splitting.proposals[0]!)
  splitting.turn(splitting.proposals[1]!)
  expect(splitting.taken.map((p) => p.in)).toEqual([100, 180])
  splitting.keep = false
  expect(shown()[1]).toEqual([100, false])
})

it('makes them as one step, beside the regions there are or in their place', () => {
  const splitting = useSplitting()
  const desk = useEditor()
  splitting.toggle()
  splitting.make()
  expect([desk.regions.length, useSplit().history.past.length, splitting.open]).toEqual([3, 1, false])
  useSplit().undo()
  splitting.toggle()
  splitting.keep = false
  splitting.choose('whole')
  splitting.make()
  expect(desk.regions.map((r) => [r.name, r.in, r.out])).toEqual([['Reel', 0, 300]])
  // the next time they stay again
  splitting.toggle()
  expect(splitting.keep).toBe(true)
})

it('keeps what cannot be read from being made, and says what a way misses', () => {
  const splitting = useSplitting()
  splitting.choose('length')
  splitting.type('length', 'soon')
  expect(splitting.wrong?.problem.code).toBe('split.setting')
  splitting.make()
  expect(useEditor().regions.length).toBe(1)
  splitting.type('length', '2s')
  expect(shown().length).toBe(6)
  splitting.choose('black')
  expect(splitting.made.problem?.code).toBe('split.not-analysed')
})
