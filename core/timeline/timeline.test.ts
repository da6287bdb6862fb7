import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { ProblemError } from '../problem'
import { makeRate } from '../time/rate'
import { placeEvents, readEdl } from './edl'
import { cutsOf, lastAtOrBefore, shotsOf, type Timeline } from './model'
import { readRegionsCsv } from './regionscsv'

const pal = makeRate(25)
const list = `TITLE: ALMANAC REEL ONE
FCM: NON-DROP FRAME

001  LINEUP   V     C        00:00:00:00 00:00:04:00 09:59:56:00 10:00:00:00
* FROM CLIP NAME: Line-up
002  R12      V     C        01:00:00:00 01:00:08:00 10:00:00:00 10:00:08:00
* FROM CLIP NAME: Morning Chain, wide
003  R13      V     C        01:00:00:99 01:00:08:00 10:00:08:00 10:00:16:00
004  R14      V     D    012 02:00:00:00 02:00:01:00 10:00:08:00 10:00:09:00
* TO CLIP NAME: Fog Bell
garbage that is no event
005  R15      V     C        broken
006  AX       AA    C        00:00:00:00 00:00:12:00 09:59:56:00 10:00:08:00
`

describe('edit decision lists (ST 258)', () => {
  const edl = readEdl(list, pal, 'reel.edl')
  it('reads events, reels, names and transitions', () => {
    expect(edl.title).toBe('ALMANAC REEL ONE')
    expect(edl.events.map(e => [e.reel, e.kind, e.name, e.record.out - e.record.in, e.transition?.frames ?? 0])).toEqual([
      ['LINEUP', 'video', 'Line-up', 100, 0], ['R12', 'video', 'Morning Chain, wide', 200, 0], ['R14', 'video', 'Fog Bell', 25, 12], ['AX', 'audio', '', 300, 0],
    ])
  })
  it('names broken lines and keeps the rest', () => {
    expect(edl.problems.map(p => [p.code, p.where])).toEqual([['edl.bad-timecode', 'reel.edl, line 8'], ['edl.broken-line', 'reel.edl, line 12']])
  })
  it('reads drop-frame labels only where the rate has them', () => {
    const drop = 'FCM: DROP FRAME\n001 A V C 00:00:00;00 00:01:00;02 01:00:00;00 01:01:00;02\n'
    expect(readEdl(drop, makeRate(30000, 1001), 'x').dropFrame).toBe(true)
    expect(readEdl(drop, makeRate(30000, 1001), 'x').events[0]!.record).toEqual({ in: 107892, out: 109692 })
    expect(readEdl(drop, pal, 'x').dropFrame).toBe(false)
  })
  it('places events against the media and says what does not fit', () => {
    const start = 10 * 3600 * 25 - 100
    const exact = placeEvents(edl, { start, length: 325, dropFrame: false, hasTimecode: true }, 'reel.mov')
    expect(exact.events[1]!.record).toEqual({ in: 100, out: 300 })
    expect(exact.problems.filter(p => p.code.startsWith('timeline'))).toEqual([])
    const short = placeEvents(edl, { start, length: 310, dropFrame: false, hasTimecode: true }, 'reel.mov')
    expect(short.problems.map(p => p.code)).toContain('timeline.length')
    expect(placeEvents(edl, { start: 0, length: 310, dropFrame: false, hasTimecode: true }, 'reel.mov').problems.map(p => p.code)).toContain('timeline.start')
  })
  it('never throws, whatever comes', () => {
    fc.assert(fc.property(fc.array(fc.oneof(fc.string(), fc.constantFrom(...list.split('\n')), fc.stringMatching(/^\d{3} {1,2}[A-Z]{1,3} V C [0-9:; ]{0,60}$/))), (lines) => {
      const r = readEdl(lines.join('\n'), pal, 'x')
      for (const e of r.events) expect(e.record.out).toBeGreaterThan(e.record.in)
    }))
  })
})

describe('shots', () => {
  const event = (from: number, to: number, name: string) => ({ track: 'V', kind: 'video' as const, name, reel: name, source: null, record: { in: from, out: to }, transition: null })
  const t: Timeline = { name: 't', rate: pal, dropFrame: false, start: 0, length: 100, events: [event(10, 40, 'b'), event(40, 90, 'c')] }
  it('cover the timeline, gaps included', () => {
    expect(shotsOf(t).map(s => [s.in, s.out, s.name])).toEqual([[0, 10, ''], [10, 40, 'b'], [40, 90, 'c'], [90, 100, '']])
    expect(cutsOf(shotsOf(t))).toEqual([0, 10, 40, 90, 100])
    expect(lastAtOrBefore([0, 10, 40], 39)).toBe(1)
  })
})

describe('regions as CSV', () => {
  const t: Timeline = { name: 't', rate: pal, dropFrame: false, start: 900000, length: 1000, events: [] }
  it('reads quoted names and timecodes of the timeline', () => {
    expect(readRegionsCsv('name,in,out\n"Two Cars, and a ""Cow""",10:00:01:00,10:00:02:00\n', t, 'r.csv')).toEqual([{ name: 'Two Cars, and a "Cow"', in: 25, out: 50 }])
  })
  it.each([
    ['in,out\n', 'csv.header', 'r.csv, line 1'], ['name,in,out\na,1,2\n', 'csv.timecode', 'r.csv, line 2'],
    ['name,in,out\n\na,10:00:02:00,10:00:01:00', 'csv.backwards', 'r.csv, line 3'], ['name,in,out\na,10:00:02:00,11:00:01:00', 'csv.outside', 'r.csv, line 2'],
  ])('names the line that is wrong: %j', (text, code, where) => {
    try {
      readRegionsCsv(text, t, 'r.csv')
      expect.unreachable()
    }
    catch (e) {
      expect((e as ProblemError).problem).toMatchObject({ code, where })
    }
  })
})
