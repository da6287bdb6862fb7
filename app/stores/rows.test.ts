import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it, vi } from 'vitest'
import type { DeliverableSummary } from '../../contract/deliverables'
import type { ShownTimeline } from '../../contract/timelines'
import { makeRate } from '../../core/time/rate'
import { useDeliverables } from './deliverables'
import { useEditor } from './editor'
import { useSplit } from './split'
import { useRows } from './rows'
import { useTimelines } from './timelines'

const region = (id: string, from: number, to: number, name: string, metadata = {}) => ({
  ...{ id, name, in: from, out: to, metadata },
})
const timeline = {
  id: 't',
  model: {
    ...{ name: 'Reel', rate: makeRate(25), dropFrame: false, start: 0, length: 300, markers: [], events: [] },
    tracks: [],
  },
  split: {
    regions: [
      region('a', 0, 100, 'Fog Bell 10', { language: 'en' }),
      region('b', 90, 120, 'Fog Bell 9', { language: 'cy' }),
      region('c', 120, 300, ''),
    ],
    markers: [],
  },
  splitVersion: 1,
  info: { video: [{}], audio: [] },
} as unknown as ShownTimeline
const goes = (regionId: string, verdict: string) =>
  ({ timelineId: 't', regionId, outletId: 'web', verdict, trouble: [] }) as unknown as DeliverableSummary

beforeEach(() => {
  setActivePinia(createPinia())
  const none = { getItem: () => null, setItem: () => undefined, removeItem: () => undefined }
  vi.stubGlobal('localStorage', none)
  vi.stubGlobal('sessionStorage', none)
  vi.stubGlobal('fetch', () => Promise.resolve(Response.json({ version: 2 })))
  useTimelines().all = [timeline]
  useTimelines().choose('t')
  useDeliverables().all = [goes('a', 'pass'), goes('b', 'fail')]
  useEditor().lay(timeline)
})
const shown = () => useRows().shown.map((r) => r.region.id)

it('filters by text, outlet, verdict and fault, together', () => {
  const rows = useRows()
  rows.text = 'CY'
  expect(shown()).toEqual(['b'])
  rows.text = ''
  rows.outlet = 'none'
  expect(shown()).toEqual(['c'])
  rows.outlet = 'web'
  rows.verdict = 'fail'
  expect(shown()).toEqual(['b'])
  rows.showAll()
  rows.fault = 'overlap'
  expect(shown()).toEqual(['a', 'b'])
  rows.fault = 'no-name'
  expect([shown(), rows.filtered]).toEqual([['c'], true])
})

it('sorts names as people count, papers by what they say, and back again', () => {
  const rows = useRows()
  rows.sortBy('name')
  expect(shown()).toEqual(['c', 'b', 'a'])
  rows.sortBy('language')
  expect(shown()).toEqual(['c', 'b', 'a'])
  rows.sortBy('length')
  rows.sortBy('length')
  expect(shown()).toEqual(['c', 'a', 'b'])
  expect(rows.papers).toEqual(['production number', 'language'])
})

it('changes what is selected when there are two or more, else all that is shown, in the order of the timeline', () => {
  const rows = useRows()
  const desk = useEditor()
  rows.sortBy('name')
  rows.choose('series')
  rows.type('pattern', '{number}')
  expect([...rows.changed.values()].map((r) => r.name)).toEqual(['01', '02', '03'])
  desk.selected = ['a']
  expect(rows.meant.length).toBe(3)
  desk.selected = ['c', 'b']
  rows.apply()
  expect(desk.regions.map((r) => r.name)).toEqual(['Fog Bell 10', '01', '02'])
  expect([useSplit().history.past.length, rows.change]).toEqual([1, ''])
})

it('keeps what cannot be read from being done', () => {
  const rows = useRows()
  rows.choose('trim')
  rows.type('by', 'soon')
  rows.apply()
  expect([rows.wrong?.key, rows.changed.size, useSplit().history.past.length]).toEqual(['by', 0, 0])
  rows.type('by', '2f')
  expect(rows.changed.get('a')).toMatchObject({ in: 2, out: 100 })
})

it('keeps names from being made that some system takes for others, and says which', () => {
  const rows = useRows()
  rows.choose('replace')
  rows.type('find', 'Bell 10')
  rows.type('by', 'BELL 9')
  expect(rows.outcome.problem?.message).toContain('“Fog BELL 9”: some systems take it for “Fog Bell 9”')
  rows.apply()
  expect([rows.changed.size, useSplit().history.past.length]).toEqual([0, 0])
  rows.type('by', 'BELL 11')
  rows.apply()
  expect(useEditor().regions[0]!.name).toBe('Fog BELL 11')
})
