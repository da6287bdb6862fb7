import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { makeRate, type Rate } from '../../time/rate'
import { normalSpeed, transitionsOf, type Timeline, type TimelineEvent } from '../model'
import { trimAssembly, type FrozenAssembly } from './assembly'
import { essenceOf } from './essence'

const event = (from: number, to: number, first: number, more: Partial<TimelineEvent> = {}): TimelineEvent => ({
  ...{ track: 'V', kind: 'video', name: 'n', reel: 'A', file: null, speed: normalSpeed, transition: null },
  source: { in: first, out: first + to - from, rate: makeRate(25) },
  record: { in: from, out: to },
  ...more,
})
const dissolve = { kind: 'dissolve', frames: 10 } as const
const tracks = [
  { name: 'V', kind: 'video' },
  { name: 'A', kind: 'audio' },
] as const
function assembly(events: readonly TimelineEvent[], more: Partial<Timeline> = {}): FrozenAssembly {
  const sources = ['a', 'b'].map((content) => ({
    ...{ root: 'r', path: `${content}.mov` },
    fingerprint: { size: 1, modified: 1, content },
  }))
  const link = { source: 0, offset: 100 }
  return {
    ...{ sources, sampleRate: 48000, channels: 2 },
    timeline: {
      ...{ name: 't', rate: makeRate(25), dropFrame: false, start: 0, length: 1000 },
      tracks,
      events,
      markers: [],
      ...more,
    },
    links: events.map((e) => ({
      clip: e.reel === 'B' ? { ...link, source: 1 } : e.reel === 'none' ? null : link,
      outgoing: e.transition?.outgoing ? link : null,
    })),
    raster: { width: 640, height: 360, chroma: '4:2:0', bitDepth: 8, pixelAspect: 1 },
  }
}
const shots = [event(0, 50, 300), event(50, 90, 700, { transition: dissolve }), event(90, 140, 200, { reel: 'B' })]
const moved = (by: number) =>
  shots.map((e) => ({ ...e, name: 'other', record: { in: e.record.in + by, out: e.record.out + by } }))
const told = (a: FrozenAssembly, from: number, to: number, written = 48000) =>
  JSON.stringify(essenceOf(trimAssembly(a, { in: from, out: to }), { in: from, out: to }, written))
const plain = assembly(shots)

describe('what is seen and heard in a range', () => {
  it('is the same wherever it lies, whatever it is called, whatever stands around it (property)', () =>
    fc.assert(
      fc.property(fc.nat(500), fc.nat(139), fc.integer({ min: 1, max: 60 }), (by, from, frames) => {
        const to = Math.min(140, from + frames)
        const others = [event(0, by, 5), event(by + 140, by + 300, 5, { reel: 'B' })].filter(
          (e) => e.record.out > e.record.in,
        )
        const now = assembly([...others.slice(0, 1), ...moved(by), ...others.slice(1)])
        expect(told(now, from + by, to + by)).toBe(told(plain, from, to))
      }),
    ))
  it.each<[string, FrozenAssembly]>([
    ['a frame of a source', assembly([event(0, 50, 301), ...shots.slice(1)])],
    ['a file', assembly([{ ...shots[0]!, reel: 'B' }, ...shots.slice(1)])],
    ['media that is missing', assembly([{ ...shots[0]!, reel: 'none' }, ...shots.slice(1)])],
    ['black', assembly([{ ...shots[0]!, source: null }, ...shots.slice(1)])],
    ['a speed', assembly([{ ...shots[0]!, speed: { num: 1, den: 2 } }, ...shots.slice(1)])],
    ['a cut', assembly([event(0, 49, 300), event(49, 90, 699, { transition: dissolve }), shots[2]!])],
    ['a dissolve', assembly([shots[0]!, { ...shots[1]!, transition: { ...dissolve, frames: 11 } }, shots[2]!])],
    ['what goes on under a dissolve', assembly([{ ...shots[0]!, speed: { num: 2, den: 1 } }, ...shots.slice(1)])],
    ['a layer', assembly(shots, { tracks: [...tracks, { name: 'V2', kind: 'video' }] })],
    ['sound', assembly([...shots, event(0, 140, 0, { kind: 'audio', track: 'A' })])],
    ['how its sound tracks are read', assembly(shots, { soundTracks: 'mixed' })],
    ['how wide its sound tracks are', assembly(shots, { trackWidths: [2, 2] })],
    ['a level', assembly([{ ...shots[0]!, gain: -3 }, ...shots.slice(1)])],
    ['a raster', { ...plain, raster: { ...plain.raster, width: 720 } }],
    ['channels', { ...plain, channels: 4 }],
  ])('is another with %s changed', (_, other) => expect(told(other, 40, 100)).not.toBe(told(plain, 40, 100)))
  it('is another where sound is brought to another sample rate that was silent before', () => {
    const heard = assembly([...shots, event(0, 140, 0, { kind: 'audio', track: 'A' })])
    expect(told({ ...heard, resampled: [0] }, 40, 100)).not.toBe(told(heard, 40, 100))
    expect(told({ ...heard, resampled: [1] }, 40, 100)).toBe(told(heard, 40, 100))
  })
  it('is another where pixels of its sources are shown in their own shape that were not before', () => {
    const seen = (wider?: Record<number, number>) => told({ ...plain, ...(wider ? { wider } : {}) }, 40, 100)
    expect(seen({ 0: 4 / 3 })).not.toBe(seen())
    expect(seen({ 5: 4 / 3 })).toBe(seen())
  })
  it('of pictures alone is the same whatever is heard, and another where what is seen is', () => {
    const seen = (a: FrozenAssembly) => JSON.stringify(essenceOf(a, { in: 40, out: 100 }, null))
    const heard = (gain: number) => event(0, 140, 0, { kind: 'audio', track: 'A', gain })
    const under = [tracks[1], tracks[0]]
    for (const other of [
      assembly([...shots, heard(0)]),
      assembly([heard(-3), ...shots]),
      assembly(shots, { tracks: under }),
      { ...plain, channels: 4, sampleRate: 96_000 },
    ])
      expect(seen(other)).toBe(seen(plain))
    for (const other of [
      assembly([event(0, 50, 301), ...shots.slice(1)]),
      assembly(shots, { tracks: [...tracks, { name: 'V2', kind: 'video' }] }),
      assembly([...shots, event(60, 70, 5, { track: 'V2' })]),
      { ...plain, raster: { ...plain.raster, width: 720 } },
    ])
      expect(seen(other)).not.toBe(seen(plain))
  })
  it('is another where a shot that goes on under a dissolve is, though only the dissolve is in the range', () => {
    const other = assembly([event(0, 50, 310), ...shots.slice(1)])
    expect(told(other, 52, 80)).not.toBe(told(plain, 52, 80))
    expect(told(other, 90, 140)).toBe(told(plain, 90, 140))
  })
  it('is another where frames are no whole number of samples, and fall otherwise', () => {
    const ntsc: Rate = makeRate(30000, 1001)
    const at = (by: number, written?: number) => told(assembly(moved(by), { rate: ntsc }), by + 90, by + 140, written)
    expect(at(0)).toBe(at(5))
    expect(at(0)).not.toBe(at(1))
    // 44.1 kHz comes round after a hundred frames
    expect(at(0, 44100)).not.toBe(at(5, 44100))
    expect(at(0, 44100)).toBe(at(100, 44100))
  })
})

it('transitions lie from the frame an event begins at, wherever their cut is', () => {
  const around = event(40, 90, 700, { transition: { ...dissolve, before: 5 } })
  expect(transitionsOf(assembly([event(0, 40, 0), around]).timeline)).toEqual([{ in: 40, out: 50 }])
  expect(transitionsOf(assembly([event(0, 40, 0)]).timeline)).toEqual([])
})
