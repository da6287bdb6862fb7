import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { ProblemError } from '../problem'
import { makeRate } from '../time/rate'
import { usedIn } from './assembly/pictures'
import { readInterchange, writeInterchange } from './formats/registry'
import { overlapping, shownOf, withoutOverlaps } from './overlap'
import { readOtio } from './formats/otio/read'
import { writeOtio } from './formats/otio/write'
import { csvLine, csvRows, readTimelineCsv, writeTimelineCsv } from './formats/csv'
import { readEdl } from './formats/edl/read'
import { writeEdl } from './formats/edl/write'
import {
  cutsOf,
  normalSpeed,
  shotsOf,
  sourceFrame,
  sourceLength,
  speedOf,
  topEvents,
  trimEvent,
  type Timeline,
  type TimelineEvent,
} from './model'
import { placeTimeline } from './align'
import { readRegionsCsv } from '../split/regionscsv'

const pal = makeRate(25)
const list = `TITLE: ALMANAC REEL ONE
FCM: NON-DROP FRAME

001  LINEUP   V     C        00:00:00:00 00:00:04:00 09:59:56:00 10:00:00:00
* FROM CLIP NAME: Line-up
002  R12      V     C        01:00:00:00 01:00:08:00 10:00:00:00 10:00:08:00
* FROM CLIP NAME: Morning Chain, wide
003  R13      V     C        01:00:00:99 01:00:08:00 10:00:08:00 10:00:16:00
004  R12      V     C        01:00:08:00 01:00:08:00 10:00:08:00 10:00:08:00
004  R14      V     D    012 02:00:00:00 02:00:01:00 10:00:08:00 10:00:09:00
* FROM CLIP NAME: Morning Chain, wide
* TO CLIP NAME: Fog Bell
garbage that is no event
005  R15      V     C        broken
006  AX       AA    C        00:00:00:00 00:00:12:00 09:59:56:00 10:00:08:00
* SOURCE FILE: sound/almanac_mix.wav
* MARKER: 10:00:02:00+10 Gannets
`

describe('edit decision lists (ST 258)', () => {
  const { timeline, problems } = readEdl(list, pal, 'reel.edl')
  it('reads events, reels, names and transitions', () => {
    expect([timeline.name, timeline.start, timeline.length]).toEqual(['ALMANAC REEL ONE', 10 * 3600 * 25 - 100, 325])
    expect(
      timeline.events.map((e) => [e.reel, e.track, e.name, e.record.in, e.record.out, e.transition?.frames ?? 0]),
    ).toEqual([
      ['LINEUP', 'V', 'Line-up', 0, 100, 0],
      ['R12', 'V', 'Morning Chain, wide', 100, 300, 0],
      ['R14', 'V', 'Fog Bell', 300, 325, 12],
      ['AX', 'A1', '', 0, 300, 0],
      ['AX', 'A2', '', 0, 300, 0],
    ])
    expect(timeline.events[2]!.transition!.outgoing).toMatchObject({
      reel: 'R12',
      name: 'Morning Chain, wide',
      source: { in: 90200, out: 90201 },
    })
    expect(timeline.events[4]!.file).toBe('sound/almanac_mix.wav')
    expect(timeline.markers).toEqual([{ kind: 'marker', at: 150, frames: 10, name: 'Gannets' }])
  })
  it('names broken lines and keeps the rest', () => {
    expect(problems.map((p) => [p.code, p.where])).toEqual([
      ['edl.bad-timecode', 'reel.edl, line 8'],
      ['edl.broken-line', 'reel.edl, line 14'],
    ])
  })
  it('reads drop-frame labels only where the rate has them', () => {
    const drop = 'FCM: DROP FRAME\n001 A V C 00:00:00;00 00:01:00;02 01:00:00;00 01:01:00;02\n'
    const at = readEdl(drop, makeRate(30000, 1001), 'x').timeline
    expect([at.dropFrame, at.start, at.length]).toEqual([true, 107892, 1800])
    expect(readEdl(drop, null, 'x').timeline.rate).toEqual({ num: 30000, den: 1001 })
    expect(readEdl(drop, pal, 'x').timeline.dropFrame).toBe(false)
  })
  it('keeps sources of the other kind of label apart', () => {
    const mixed = 'FCM: DROP FRAME\nFCM: NON-DROP FRAME\n001 A V C 00:01:00:00 00:01:01:00 01:00:00;00 01:00:01;00\n'
    const r = readEdl(mixed, makeRate(30000, 1001), 'x')
    expect(r.timeline.events[0]!.source).toMatchObject({ in: 1800, out: 1830, dropFrame: false })
    expect(r.problems.map((p) => p.code)).toEqual(['edl.mixed-drop-frame'])
  })
  it('reads speeds, backwards too, and freezes', () => {
    const r = readEdl(
      `001 A V C 01:00:00:00 01:00:02:00 10:00:00:00 10:00:01:00
M2 A 050.0 01:00:00:00
002 B V C 01:00:00:00 01:00:01:00 10:00:01:00 10:00:02:00
M2 B -025.0 01:00:00:24
003 C V C 01:00:00:00 01:00:00:01 10:00:02:00 10:00:03:00
M2 C 000.0 01:00:00:00
004 D V C 01:00:00:00 01:00:00:12 10:00:03:00 10:00:04:00
M2 D 012.5 01:00:00:00
`,
      pal,
      'x',
    )
    expect(r.problems).toEqual([])
    expect(r.timeline.events.map((e) => [e.speed.num, e.speed.den, e.source!.out - e.source!.in])).toEqual([
      [2, 1, 49],
      [-1, 1, 25],
      [0, 1, 1],
      [1, 2, 13],
    ])
    const e = r.timeline.events[1]!
    expect([0, 1, 24].map((k) => sourceFrame(e.source!, e.speed, k) - 90000)).toEqual([24, 23, 0])
  })
  it('reads black, split edits and further sound channels', () => {
    const r = readEdl(
      '001 BL V C 00:00:00:00 00:00:01:00 10:00:00:00 10:00:01:00\n' +
        '002 A1 B C 01:00:00:00 01:00:01:00 10:00:01:00 10:00:02:00\n' +
        '003 A2 A2/V C 01:00:00:00 01:00:01:00 10:00:02:00 10:00:03:00\nAUD 3 4\n',
      pal,
      'x',
    )
    expect(r.timeline.events.map((e) => [e.track, e.source === null, e.channels ?? null])).toEqual([
      ['V', true, null],
      ['V', false, null],
      ['A1', false, [0]],
      ['A2', false, [1]],
      ['V', false, null],
      ['A3', false, [2]],
      ['A4', false, [3]],
    ])
  })
  it('writes what it reads', () => {
    const again = readEdl(writeEdl(timeline).text, pal, 'x')
    expect(again.problems).toEqual([])
    expect(
      again.timeline.events.map((e) => [e.track, e.reel, e.file, e.source, e.record, e.transition?.frames ?? 0]).sort(),
    ).toEqual(
      timeline.events.map((e) => [e.track, e.reel, e.file, e.source, e.record, e.transition?.frames ?? 0]).sort(),
    )
    expect(again.timeline.markers).toEqual(timeline.markers)
  })
  it('places events against a flattened file and says what does not fit', () => {
    const start = 10 * 3600 * 25 - 100
    const exact = placeTimeline(timeline, { start, length: 325, dropFrame: false, hasTimecode: true }, 'reel.mov')
    expect(exact.timeline.events[1]!.record).toEqual({ in: 100, out: 300 })
    expect(exact.problems).toEqual([])
    expect(
      placeTimeline(timeline, { start: start - 50, length: 375, dropFrame: false, hasTimecode: true }, 'x').timeline
        .events[1]!.record,
    ).toEqual({ in: 150, out: 350 })
    const short = placeTimeline(timeline, { start, length: 310, dropFrame: false, hasTimecode: true }, 'reel.mov')
    expect(short.problems.map((p) => p.code)).toEqual(['timeline.length'])
    expect(Math.max(...short.timeline.events.map((e) => e.record.out))).toBe(310)
    expect(
      placeTimeline(timeline, { start: 0, length: 310, dropFrame: false, hasTimecode: true }, 'reel.mov').problems.map(
        (p) => p.code,
      ),
    ).toContain('timeline.start')
  })
  it('never throws, whatever comes', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.oneof(
            fc.string(),
            fc.constantFrom(...list.split('\n')),
            fc.stringMatching(/^\d{3} {1,2}[A-Z]{1,3} V C [0-9:; ]{0,60}$/),
          ),
        ),
        (lines) => {
          const r = readEdl(lines.join('\n'), pal, 'x')
          for (const e of r.timeline.events) expect(e.record.out).toBeGreaterThan(e.record.in)
        },
      ),
    )
  })
})

const timelineOf = (length: number, events: TimelineEvent[]): Timeline => ({
  name: 't',
  rate: pal,
  dropFrame: false,
  start: 0,
  length,
  tracks: [{ name: 'V', kind: 'video' }],
  events,
  markers: [],
})

const event = (from: number, to: number, name: string, track = 'V'): TimelineEvent => ({
  track,
  kind: 'video',
  name,
  reel: name,
  file: null,
  source: { in: 1000, out: 1000 + to - from, rate: pal },
  speed: normalSpeed,
  record: { in: from, out: to },
  transition: null,
})

describe('shots', () => {
  const t = timelineOf(100, [event(10, 40, 'b'), event(40, 90, 'c')])
  it('cover the timeline, gaps included', () => {
    expect(shotsOf(t).map((s) => [s.in, s.out, s.name])).toEqual([
      [0, 10, ''],
      [10, 40, 'b'],
      [40, 90, 'c'],
      [90, 100, ''],
    ])
    expect(cutsOf(shotsOf(t))).toEqual([0, 10, 40, 90, 100])
  })
  it('are those of the topmost layer', () => {
    const layered: Timeline = {
      ...t,
      tracks: [...t.tracks, { name: 'V2', kind: 'video' }],
      events: [...t.events, event(30, 50, 'over', 'V2')],
    }
    expect(shotsOf(layered).map((s) => [s.in, s.out, s.name])).toEqual([
      [0, 10, ''],
      [10, 30, 'b'],
      [30, 50, 'over'],
      [50, 90, 'c'],
      [90, 100, ''],
    ])
    expect(topEvents(layered).map((e) => e.source!.in)).toEqual([1000, 1000, 1010])
  })
  it('show the topmost event at every frame (property)', () => {
    const any = fc.array(
      fc.record({
        at: fc.integer({ min: 0, max: 60 }),
        n: fc.integer({ min: 1, max: 30 }),
        level: fc.integer({ min: 0, max: 2 }),
      }),
      { maxLength: 12 },
    )
    fc.assert(
      fc.property(any, (list) => {
        const tracks = ['V', 'V2', 'V3']
        const events: TimelineEvent[] = []
        for (const x of list) {
          const e = event(x.at, x.at + x.n, `${x.at}`, tracks[x.level]!)
          if (!events.some((o) => o.track === e.track && o.record.in < e.record.out && e.record.in < o.record.out))
            events.push(e)
        }
        const whole: Timeline = { ...t, tracks: tracks.map((name) => ({ name, kind: 'video' })), events }
        const top = topEvents(whole)
        for (let f = 0; f < 100; f++) {
          const expected = [...events]
            .reverse()
            .sort((a, b) => tracks.indexOf(b.track) - tracks.indexOf(a.track))
            .find((e) => f >= e.record.in && f < e.record.out)
          const found = top.filter((e) => f >= e.record.in && f < e.record.out)
          expect(found.length).toBe(expected ? 1 : 0)
          if (expected)
            expect(sourceFrame(found[0]!.source!, normalSpeed, f - found[0]!.record.in)).toBe(
              sourceFrame(expected.source!, normalSpeed, f - expected.record.in),
            )
        }
      }),
    )
  })
})

describe('events that lie over each other on one track', () => {
  const events = [event(0, 100, 'long'), event(10, 20, 'x'), event(30, 40, 'y'), event(30, 35, 'z')]
  const t = timelineOf(100, events)
  it('show the later one, then what is left of the earlier', () => {
    expect(shotsOf(t).map((s) => [s.in, s.out, s.name])).toEqual([
      [0, 10, 'long'],
      [10, 20, 'x'],
      [20, 30, 'long'],
      [30, 35, 'z'],
      [35, 40, 'y'],
      [40, 100, 'long'],
    ])
    expect(topEvents(t).map((e) => e.source!.in)).toEqual([1000, 1000, 1020, 1000, 1005, 1040])
    expect(overlapping(events).map((e) => e.name)).toEqual(['x', 'y', 'z'])
    expect(shownOf(events, 0)).toEqual([
      { in: 0, out: 10 },
      { in: 20, out: 30 },
      { in: 40, out: 100 },
    ])
  })
  it('are used where they are seen, and not where others cover them', () => {
    expect([...usedIn(t, { in: 12, out: 18 })]).toEqual([1])
    expect([...usedIn(t, { in: 50, out: 60 })]).toEqual([0])
    expect([...usedIn(t, { in: 0, out: 100 })].sort()).toEqual([0, 1, 2, 3])
    const covered = {
      ...t,
      tracks: [...t.tracks, { name: 'V2', kind: 'video' as const }],
      events: [...events, event(0, 50, 'over', 'V2')],
    }
    expect([...usedIn(covered, { in: 0, out: 40 })]).toEqual([4])
  })
  it('are used where sound of them goes on under that which follows', () => {
    const heard = (from: number, to: number, frames = 0): TimelineEvent => ({
      ...{ ...event(from, to, `${from}`, 'A1'), kind: 'audio' },
      transition: frames ? { kind: 'dissolve', frames } : null,
    })
    const sound = { ...t, events: [heard(0, 40), heard(40, 80, 10), heard(80, 100)] }
    const used = (from: number, to: number) => [...usedIn(sound, { in: from, out: to })].sort()
    expect([used(45, 60), used(50, 60), used(60, 90)]).toEqual([[0, 1], [1], [1, 2]])
  })
  it('are cut to what is seen of them where tracks lie flat, and that is said', () => {
    const { events: flat, cut } = withoutOverlaps(events)
    expect([cut, flat.map((e) => [e.name, e.record.in, e.record.out, e.source!.in])]).toEqual([
      2,
      [
        ['long', 0, 10, 1000],
        ['long', 20, 30, 1020],
        ['long', 40, 100, 1040],
        ['x', 10, 20, 1000],
        ['y', 35, 40, 1005],
        ['z', 30, 35, 1000],
      ],
    ])
    for (const format of ['otio', 'csv']) {
      const { text, problems } = writeInterchange({ timeline: t }, format)
      expect(problems.map((p) => [p.code, p.message])).toContainEqual([
        'convert.overlap',
        'Tracks of this format lie flat: 2 events are cut to what is seen of them.',
      ])
      const back = readInterchange(text, `x.${format}`).timeline
      expect(topEvents(back).map((e) => [e.name, e.record.in, e.record.out, e.source!.in])).toEqual(
        topEvents(t).map((e) => [e.name, e.record.in, e.record.out, e.source!.in]),
      )
    }
    expect(writeInterchange({ timeline: { ...t, events: flat } }, 'otio').problems).toEqual([])
  })
  it('are said when a list has them', () => {
    const two =
      '001 A V C 00:00:00:00 00:00:04:00 01:00:00:00 01:00:04:00\n' +
      '002 B V C 00:00:00:00 00:00:01:00 01:00:01:00 01:00:02:00\n'
    expect(readEdl(two, pal, 'x.edl').problems).toMatchObject([{ code: 'edl.overlap', where: 'x.edl' }])
  })
})

describe('a list that does not state its rate', () => {
  const at = (record: string) => `001 A V C 00:00:00:00 00:00:01:00 ${record}\n`
  it.each([
    ['01:00:00:00 01:00:01:00', makeRate(25), []],
    ['01:00:00:00 01:00:01:24', makeRate(25), []],
    ['01:00:00;00 01:00:01;00', makeRate(30000, 1001), []],
    ['01:00:00;00 01:00:01;45', makeRate(60000, 1001), []],
    ['01:00:00:00 01:00:01:29', makeRate(30000, 1001), ['list.rate-unknown']],
    ['01:00:00:00 01:00:01:49', makeRate(50), ['list.rate-unknown']],
    ['01:00:00:00 01:00:01:59', makeRate(60000, 1001), ['list.rate-unknown']],
  ])('with %s', (record, rate, codes) => {
    const { timeline, problems } = readEdl(at(record), null, 'x.edl')
    const rates = problems.filter((p) => p.code !== 'edl.length').map((p) => p.code)
    expect([timeline.rate, timeline.events.length, rates]).toEqual([rate, 1, codes])
  })
  it('is asked for in CSV as well', () => {
    const table = 'kind,record in,record out\nvideo,01:00:00:00,01:00:01:29\n'
    const { timeline, problems } = readTimelineCsv(table, null, 'x.csv')
    expect([timeline.events.length, problems.map((p) => p.code)]).toEqual([1, ['list.rate-unknown']])
    expect(readTimelineCsv(table, makeRate(30), 'x.csv').problems).toEqual([])
  })
  it('says which rates fit', () => {
    const [problem] = readEdl(at('01:00:00:00 01:00:01:29'), null, 'x.edl').problems
    expect(problem!.fix).toContain('29.97 or 30')
  })
})

describe('regions from a list of columns', () => {
  const t = timelineOf(1000, [])
  const read = (text: string) => readRegionsCsv(text, t, 'r.csv')
  it.each([
    ['commas', 'name,in,out\nFog,00:00:01:00,00:00:02:00\n'],
    ['semicolons, as spreadsheets of half of Europe write', 'name;in;out\r\nFog;00:00:01:00;00:00:02:00\r\n'],
    ['tabs', 'name\tin\tout\nFog\t00:00:01:00\t00:00:02:00\n'],
    ['a byte-order mark, and columns in another order', '\uFEFFin;out;name\n00:00:01:00;00:00:02:00;Fog\n'],
  ])('with %s', (_, text) => expect(read(text)).toMatchObject([{ name: 'Fog', in: 25, out: 50 }]))
  it('takes further columns as metadata', () => {
    const [r] = read('name,in,out,production number,outlet\nFog,00:00:01:00,00:00:02:00,FA-103,osprey\n')
    expect(r!.metadata).toEqual({ 'production number': 'FA-103' })
  })
  it('takes what a region is, whatever its capitals, and says what it cannot be', () => {
    expect(read('name,in,out,kind\nFog,00:00:01:00,00:00:02:00,Promo\nX,00:00:02:00,00:00:03:00,\n')).toEqual([
      { name: 'Fog', in: 25, out: 50, kind: 'promo' },
      { name: 'X', in: 50, out: 75 },
    ])
    expect(() => read('name,in,out,kind\nFog,00:00:01:00,00:00:02:00,jingle\n')).toThrow('is no kind of region')
  })
  it('takes who receives a region, and its chapters, which lie within it', () => {
    const head = 'name,in,out,outlet,chapters,production number\n'
    const [one, two] = read(
      `${head}A,00:00:00:00,00:00:01:00,north | osprey,00:00:00:05 Ferry leaves | 00:00:00:20 Fog,FA-101\n` +
        'B,00:00:01:00,00:00:02:00,,,\n',
    )
    expect([one, two]).toEqual([
      {
        ...{ name: 'A', in: 0, out: 25, outlets: ['north', 'osprey'], metadata: { 'production number': 'FA-101' } },
        chapters: [
          { at: 5, name: 'Ferry leaves' },
          { at: 20, name: 'Fog' },
        ],
      },
      { name: 'B', in: 25, out: 50, metadata: {} },
    ])
    for (const [chapter, code] of [
      ['00:00:01:00 Late', 'csv.chapter'],
      ['soon', 'csv.timecode'],
    ])
      expect(() => read(`${head}A,00:00:00:00,00:00:01:00,,${chapter},\n`)).toThrow(
        expect.objectContaining({ problem: expect.objectContaining({ code, where: 'r.csv, line 2' }) }),
      )
  })
  it('of no lines is an error', () => {
    expect(() => read('name,in,out\n')).toThrow('There are no regions below the header.')
  })
  it('no text in what is written is a formula to a spreadsheet, and all of it comes back', () => {
    const texts = ['=1+1', '+49 30', '@here', '-x', '-1.5', 'plain', "'quoted"]
    const line = csvLine(texts)
    expect(line.split(',').map((f) => /^"?[=+@]/.test(f))).toEqual(texts.map(() => false))
    expect(csvRows(`a\n${line}\n`)[1]!.fields).toEqual(texts)
  })
})

describe('OpenTimelineIO that holds more than it seems', () => {
  const made = JSON.parse(writeInterchange({ timeline: timelineOf(50, [event(0, 50, 'x')]) }, 'otio').text) as {
    tracks: { children: { children: { media_references: unknown }[] }[] }
  }
  it('of several timelines says which one is read', () => {
    const children = [
      { ...made, name: 'First' },
      { ...made, name: 'Second' },
    ]
    const { timeline, problems } = readInterchange(
      JSON.stringify({ OTIO_SCHEMA: 'SerializableCollection.1', children }),
      'two.otio',
    )
    expect(timeline.name).toBe('First')
    expect(problems).toMatchObject([{ code: 'otio.more-timelines', fix: expect.stringContaining('Second') as string }])
  })
  it('says clips that take frames their media does not have', () => {
    const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: 25, value })
    const short = structuredClone(made)
    short.tracks.children[0]!.children[0]!.media_references = {
      DEFAULT_MEDIA: {
        OTIO_SCHEMA: 'ExternalReference.1',
        target_url: 'x.mov',
        available_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(1000), duration: time(49) },
      },
    }
    expect(readInterchange(JSON.stringify(short), 'x.otio').problems).toMatchObject([{ code: 'otio.range' }])
  })
})

describe('a fade to black', () => {
  const list =
    'TITLE: FADE\nFCM: NON-DROP FRAME\n001 A V C 01:00:00:00 01:00:04:00 10:00:00:00 10:00:04:00\n' +
    '002 A V C 01:00:04:00 01:00:04:00 10:00:04:00 10:00:04:00\n' +
    '002 BL V D 025 00:00:00:00 00:00:02:00 10:00:04:00 10:00:06:00\n'
  it('is still there after OpenTimelineIO and back', () => {
    const first = readEdl(list, pal, 'x').timeline
    expect(first.events[1]).toMatchObject({ source: null, transition: { kind: 'dissolve', frames: 25 } })
    const back = readOtio(writeOtio(first).text, 'x.otio').timeline
    expect(back.events[1]).toMatchObject({ source: null, record: { in: 100, out: 125 }, transition: { frames: 25 } })
    expect(writeEdl(back).text).toMatch(/BL +V +D +025 /)
  })
  it('keeps its whole length where it lies on both sides of the cut into a gap', () => {
    const item = (o: object) => ({ name: '', metadata: {}, effects: [], markers: [], ...o })
    const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: 25, value })
    const range = (n: number) => ({ OTIO_SCHEMA: 'TimeRange.1', start_time: time(0), duration: time(n) })
    const children = [
      item({ OTIO_SCHEMA: 'Clip.2', source_range: range(100), media_references: {} }),
      item({
        OTIO_SCHEMA: 'Transition.1',
        transition_type: 'SMPTE_Dissolve',
        in_offset: time(12),
        out_offset: time(13),
      }),
      item({ OTIO_SCHEMA: 'Gap.1', source_range: range(50) }),
    ]
    const tracks = item({
      OTIO_SCHEMA: 'Stack.1',
      children: [item({ OTIO_SCHEMA: 'Track.1', kind: 'Video', children })],
    })
    const { timeline } = readOtio(JSON.stringify(item({ OTIO_SCHEMA: 'Timeline.1', tracks })), 'x.otio')
    expect(timeline.events.map((e) => [e.record.in, e.record.out, e.transition?.frames ?? 0])).toEqual([
      [0, 88, 0],
      [88, 113, 25],
    ])
    expect(timeline.length).toBe(150)
  })
})

describe('what else lists hold', () => {
  const first = '001 A V C 01:00:00:00 01:00:04:00 10:00:00:00 10:00:04:00\n'
  it('locators are markers', () => {
    const { timeline } = readEdl(`${first}* LOC: 10:00:01:00 RED    Ferry bell\n* LOC: 10:00:02:00 GREEN\n`, pal, 'x')
    expect(timeline.markers.map((m) => [m.at, m.name])).toEqual([
      [25, 'Ferry bell'],
      [50, 'GREEN'],
    ])
  })
  it('a source across midnight goes on, and so does the timeline', () => {
    const { timeline, problems } = readEdl(
      '001 A V C 23:59:59:00 00:00:01:00 23:59:58:00 00:00:00:00\n' +
        '002 A V C 00:00:01:00 00:00:03:00 00:00:00:00 00:00:02:00\n',
      pal,
      'x',
    )
    const day = 24 * 3600 * 25
    expect(problems).toEqual([])
    expect(timeline.events.map((e) => [e.source!.in, e.source!.out, e.record.in, e.record.out])).toEqual([
      [day - 25, day + 25, 0, 50],
      [25, 75, 50, 100],
    ])
  })
  it('a list that begins after midnight lies in a file that began before it', () => {
    const { timeline } = readEdl('001 A V C 00:00:00:00 00:00:02:00 00:00:01:00 00:00:03:00\n', pal, 'x')
    const start = 24 * 3600 * 25 - 25
    const placed = placeTimeline(timeline, { start, length: 200, dropFrame: false, hasTimecode: true }, 'x')
    expect(placed.timeline.events.map((e) => e.record)).toEqual([{ in: 50, out: 100 }])
  })
  it('columns across midnight come back as they were written', () => {
    const day = 24 * 3600 * 25
    const [e] = readEdl('001 A V C 23:59:59:00 00:00:01:00 23:59:58:00 00:00:00:00\n', pal, 'x').timeline.events
    const t = timelineOf(100, [e!, { ...e!, record: { in: 50, out: 100 } }])
    const late = { ...t, start: day - 50, markers: [{ kind: 'chapter', name: 'Bell', at: 60, frames: 25 } as const] }
    const { timeline, problems } = readTimelineCsv(writeTimelineCsv(late).text, null, 'x.csv')
    expect(problems).toEqual([])
    const source = { in: day - 25, out: day + 25 }
    const events = [0, 50].map((at) => ({ record: { in: at, out: at + 50 }, source }))
    expect(timeline).toMatchObject({ start: day - 50, length: 100, events, markers: late.markers })
  })
  it('a speed that is the rate is normal, others are kept to the thousandth, broken ones are said', () => {
    const film = makeRate(24000, 1001)
    const speed = (m2: string) => {
      const { timeline, problems } = readEdl(`${first}M2 A ${m2} 01:00:00:00\n`, film, 'x')
      return [timeline.events[0]!.speed, problems.map((p) => p.code)]
    }
    expect(speed('024.0')).toEqual([normalSpeed, []])
    expect(speed('023.98')).toEqual([normalSpeed, []])
    expect(speed('012.345')).toEqual([{ num: 823, den: 1600 }, []])
    expect(speed('fast')[1]).toContain('edl.broken-speed')
  })
  it('a transition longer than its event is cut, and said', () => {
    const { timeline, problems } = readEdl(
      `${first}002 B V D 200 01:00:00:00 01:00:04:00 10:00:04:00 10:00:08:00\n`,
      pal,
      'x',
    )
    expect(timeline.events[1]!.transition).toMatchObject({ frames: 100 })
    expect(problems.map((p) => p.code)).toContain('edl.long-transition')
  })
})

describe('speeds', () => {
  it('take the nearest frame at or before', () => {
    const s = { in: 100, out: 110 }
    expect([0, 1, 2, 3].map((k) => sourceFrame(s, { num: 1, den: 2 }, k))).toEqual([100, 100, 101, 101])
    expect([0, 1, 2].map((k) => sourceFrame(s, { num: -2, den: 1 }, k))).toEqual([109, 107, 105])
    expect(speedOf(0.48)).toEqual({ num: 12, den: 25 })
    expect([
      sourceLength(10, { num: 1, den: 2 }),
      sourceLength(10, { num: 0, den: 1 }),
      sourceLength(1, { num: -3, den: 1 }),
    ]).toEqual([5, 1, 1])
  })
  it('shows the same frames after trimming, at whole speeds (property)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -4, max: 4 }),
        fc.integer({ min: 0, max: 19 }),
        fc.integer({ min: 1, max: 20 }),
        (num, from, n) => {
          const e = { ...event(0, 20, 'x'), speed: { num, den: 1 } }
          const trimmed = trimEvent(e, { in: from, out: Math.min(20, from + n) })!
          for (let f = trimmed.record.in; f < trimmed.record.out; f++)
            expect(sourceFrame(trimmed.source!, e.speed, f - trimmed.record.in)).toBe(
              sourceFrame(e.source!, e.speed, f),
            )
        },
      ),
    )
  })
})

describe('regions as CSV', () => {
  const t: Timeline = {
    name: 't',
    rate: pal,
    dropFrame: false,
    start: 900000,
    length: 1000,
    tracks: [],
    events: [],
    markers: [],
  }
  it('reads quoted names and timecodes of the timeline', () => {
    expect(readRegionsCsv('name,in,out\n"Two Cars, and a ""Cow""",10:00:01:00,10:00:02:00\n', t, 'r.csv')).toEqual([
      { name: 'Two Cars, and a "Cow"', in: 25, out: 50 },
    ])
  })
  it('counts labels after midnight on', () => {
    const late = { ...t, start: 24 * 3600 * 25 - 25 }
    const text = 'name,in,out\na,23:59:59:10,00:00:02:00\nb,00:00:02:00,00:00:03:00\n'
    expect(readRegionsCsv(text, late, 'r.csv').map((r) => [r.in, r.out])).toEqual([
      [10, 75],
      [75, 100],
    ])
  })
  it.each([
    ['in,out\n', 'csv.header', 'r.csv, line 1'],
    ['name,in,out\na,1,2\n', 'csv.timecode', 'r.csv, line 2'],
    ['name,in,out\n\na,10:00:02:00,10:00:01:00', 'csv.backwards', 'r.csv, line 3'],
    ['name,in,out\na,10:00:02:00,11:00:01:00', 'csv.outside', 'r.csv, line 2'],
  ])('names the line that is wrong: %j', (text, code, where) => {
    try {
      readRegionsCsv(text, t, 'r.csv')
      expect.unreachable()
    } catch (e) {
      expect((e as ProblemError).problem).toMatchObject({ code, where })
    }
  })
})
