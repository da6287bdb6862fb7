import { describe, expect, it } from 'vitest'
import { makeRate } from '../time/rate'
import { normalSpeed, type Timeline, type TimelineEvent } from './model'
import { sourceAt, sourceInFile } from './sourceat'

const rate = makeRate(25)
const event = (from: number, to: number, reel: string, first: number, more: Partial<TimelineEvent> = {}) => ({
  ...{ track: 'V', kind: 'video' as const, name: reel, reel, file: null, speed: normalSpeed, transition: null },
  source: { in: first, out: first + to - from, rate },
  record: { in: from, out: to },
  ...more,
})
const timeline = (events: readonly TimelineEvent[], more: Partial<Timeline> = {}): Timeline => ({
  ...{ name: 'Tides', rate, dropFrame: false, start: 900_000, length: 100, markers: [] },
  tracks: ['V', 'V2'].map((name) => ({ name, kind: 'video' })),
  events,
  ...more,
})

const noClock = () => null

describe('where a picture was taken from', () => {
  const t = timeline([
    event(0, 20, 'A', 1000),
    event(20, 40, 'B', 5000, { speed: { num: -2, den: 1 }, source: { in: 5000, out: 5040, rate } }),
    event(30, 35, 'C', 7000, { track: 'V2' }),
    event(40, 50, 'BL', 0, { source: null }),
    event(60, 70, 'D', 90, { source: { in: 90, out: 100, rate: makeRate(30000, 1001), dropFrame: true } }),
  ])
  it('is what the list says of what is seen there, at whatever speed it runs', () => {
    const seen = [0, 19, 20, 29, 30, 35].map((n) => {
      const place = sourceAt(t, n, noClock)!
      return `${place.reel} ${place.frames}`
    })
    expect(seen).toEqual(['A 1000', 'A 1019', 'B 5039', 'B 5021', 'C 7000', 'B 5009'])
  })
  it('is nothing where there is black, a gap, or no more of the timeline', () => {
    expect([40, 49, 50, 59, 70, 200].map((n) => sourceAt(t, n, noClock))).toEqual(Array(6).fill(null))
  })
  it('counts as its source does, and drops labels only where they can be', () => {
    expect(sourceAt(t, 61, noClock)).toEqual({ frames: 91, rate: makeRate(30000, 1001), dropFrame: true, reel: 'D' })
    const dropped = timeline([event(0, 9, 'A', 4)], { dropFrame: true })
    expect(sourceAt(dropped, 0, noClock)).toMatchObject({ rate, dropFrame: false })
  })
  it('is what a file counts there whose timecode jumps', () => {
    const timecode = { start: '10:00:00:00', startFrames: 900_000, rate, dropFrame: false }
    const jumping = { ...timecode, jumps: [{ at: 40, count: 5000 }] }
    const whole = timeline([event(0, 100, 'reel.mov', 0, { file: 'a/reel.mov' })], { start: 900_000 })
    const own = { path: 'a/reel.mov', timecode: jumping }
    expect([39, 40].map((n) => sourceInFile(whole, n, own)!.frames)).toEqual([900_039, 5000])
    // a list that counts the file from its second stretch on
    const listed = timeline([event(0, 20, 'A', 5010)])
    expect(sourceAt(listed, 3, () => ({ timecode: jumping, offset: 4960 }))!.frames).toBe(5013)
  })
  it('is by the timecode of a file that is a timeline itself, whatever start a person gave the timeline', () => {
    const whole = timeline([event(0, 100, 'reel.mov', 0, { file: 'a/reel.mov' })], { start: 0 })
    const timecode = { start: '10:00:00:00', startFrames: 900_000, rate, dropFrame: false, reel: 'CARD' }
    const own = (tc: typeof timecode | null) => ({ path: 'a/reel.mov', timecode: tc })
    expect(sourceInFile(whole, 7, own(timecode))).toEqual({ frames: 900_007, rate, dropFrame: false, reel: 'CARD' })
    expect(sourceInFile(whole, 7, own({ ...timecode, rate: makeRate(50) }))).toBeNull()
    expect(sourceInFile(whole, 7, own(null))).toBeNull()
    const numbered = { path: 'a/reel.mov', timecode: { ...timecode, numbered: true as const } }
    expect(sourceInFile(whole, 7, numbered)).toBeNull()
    // a list that was brought in with a file knows better
    expect(sourceInFile(t, 3, own(timecode))).toMatchObject({ reel: 'A', frames: 1003 })
  })
  it('is by the timecode of its file where the list counts from the first frame of that', () => {
    const clock = { timecode: { start: '', startFrames: 90_000, rate, dropFrame: false }, offset: 0 }
    const asked: number[] = []
    const of = (frame: number) =>
      sourceAt(t, frame, (event) => {
        asked.push(event)
        return clock
      })
    expect([0, 22, 32, 37].map((n) => of(n)?.frames)).toEqual([91_000, 95_035, 97_002, 95_005])
    // what is left of an event beside a layer is that event
    expect(asked).toEqual([0, 1, 2, 1])
    expect(of(0)!.reel).toBe('A')
    // numbers of stills are no timecode: there the list knows better
    const numbers = { ...clock, timecode: { ...clock.timecode, numbered: true as const } }
    expect(sourceAt(t, 0, () => numbers)).toMatchObject({ frames: 1000, reel: 'A' })
    // another rate is another clock
    expect(of(61)).toMatchObject({ frames: 91, reel: 'D' })
  })
})
