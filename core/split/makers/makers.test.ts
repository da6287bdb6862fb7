import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { toProblem } from '../../problem'
import { makeRate } from '../../time/rate'
import { cutsOf, type Shot, type Timeline } from '../../timeline/model'
import { regionNames } from '../naming'
import type { MakeRequest, NamedRange } from './maker'
import { rangesBy, splitMaker, splitMakers } from './registry'
import { readValue } from '../settings'

const timeline: Timeline = {
  ...{ name: 'Reel', rate: makeRate(25), dropFrame: false, start: 90_000, length: 1000 },
  tracks: [
    { name: 'V', kind: 'video' },
    { name: 'A1', kind: 'audio' },
  ],
  events: [],
  markers: [
    { name: 'One', kind: 'chapter', at: 100, frames: 0 },
    { name: 'Note', kind: 'marker', at: 300, frames: 50 },
    { name: 'Two', kind: 'chapter', at: 600, frames: 0 },
  ],
}
const shots: Shot[] = [0, 240, 520, 780].map((at, i, all) => ({
  ...{ in: at, out: all[i + 1] ?? 1000, name: `Shot ${i + 1}`, reel: '' },
}))
const black = [
  { in: 200, out: 225 },
  { in: 490, out: 492 },
]
const silence = [{ in: 190, out: 215 }]
const sound = { momentary: [], faults: { silence, phase: [], clicks: [], dropouts: [], data: [] } }
const request: MakeRequest = { timeline, shots, sound, pictures: { black, freeze: [], flashes: [] } }
const plain = (list: readonly NamedRange[]) => list.map((r) => [r.in, r.out])
const by = (name: string, values = {}, more: Partial<MakeRequest> = {}) =>
  plain(rangesBy(name, { ...request, ...more }, values))
const code = (make: () => unknown) => {
  try {
    make()
  } catch (e) {
    return toProblem(e).code
  }
  return null
}

describe('ways to split', () => {
  it('each has a name of its own, and says when it is the right one', () => {
    expect(new Set(splitMakers.map((m) => m.name)).size).toBe(splitMakers.length)
    for (const m of splitMakers) expect(m.hint).toMatch(/\.$/)
  })
  it('at black, at silence, at both', () => {
    expect(by('black')).toEqual([
      [0, 200],
      [225, 1000],
    ])
    expect(by('black', { least: 2 })).toEqual([
      [0, 200],
      [225, 490],
      [492, 1000],
    ])
    expect(by('silence')).toEqual([
      [0, 190],
      [215, 1000],
    ])
    expect(by('pauses', { least: 15 })).toEqual([
      [0, 200],
      [215, 1000],
    ])
    expect(by('pauses', { least: 16 })).toEqual([[0, 1000]])
    expect(by('black', { shortest: 201 })).toEqual([[225, 1000]])
  })
  it('never takes what was not looked through for a picture without black', () => {
    expect(code(() => by('black', {}, { pictures: null }))).toBe('split.not-analysed')
    expect(code(() => by('silence', {}, { sound: null }))).toBe('split.not-analysed')
    expect(code(() => by('pauses', {}, { sound: null }))).toBe('split.not-analysed')
    expect(code(() => by('programme', {}, { pictures: null }))).toBe('split.not-analysed')
    expect(code(() => by('length', { to: 'silence' }, { sound: null }))).toBe('split.not-analysed')
    expect(code(() => by('shots', {}, { pictures: null }))).toBe('split.not-analysed')
    expect(code(() => by('count', { to: 'cut' }, { pictures: null }))).toBe('split.not-analysed')
  })
  it('goes by pictures alone where there is no sound, and says so where sound is what it goes by', () => {
    expect(code(() => by('silence', {}, { mute: true, sound: null }))).toBe('split.no-sound')
    const pictures = { black: [{ in: 200, out: 225 }], freeze: [{ in: 0, out: 100 }], flashes: [] }
    expect(by('programme', {}, { mute: true, sound: null, pictures })).toEqual([[225, 1000]])
  })
  it('says when there is no line-up, instead of taking the whole for the programme', () =>
    expect(code(() => by('programme'))).toBe('split.no-line-up'))
  it('the programme after line-up, in its parts', () => {
    const momentary = Array.from({ length: 400 }, (_, i) => (i < 30 ? -18 : null))
    const heard = { momentary, faults: { ...sound.faults, silence: [{ in: 75, out: 150 }, ...silence] } }
    const pictures = { black: [{ in: 125, out: 150 }, ...black], freeze: [], flashes: [] }
    expect(by('programme', { least: 10 }, { sound: heard, pictures })).toEqual([
      [150, 200],
      [215, 1000],
    ])
    expect(by('programme', { as: 'whole' }, { sound: heard, pictures })).toEqual([[150, 1000]])
  })
  it('each shot, or those that are chosen', () => {
    expect(by('shots')).toEqual(shots.map((s) => [s.in, s.out]))
    expect(by('shots', {}, { chosen: [1] })).toEqual([[240, 520]])
    expect(by('shots', { shortest: 241 })).toEqual([
      [240, 520],
      [520, 780],
    ])
  })
  it('from marker to marker, by kind and by text; one set at the desk is a chapter', () => {
    const markers = [...timeline.markers, { at: 800, name: 'Set' }].map((m, i) => ({ ...m, id: `m${i}` }))
    expect(by('chapters', {}, { markers })).toEqual([
      [100, 300],
      [300, 350],
      [600, 800],
      [800, 1000],
    ])
    expect(by('chapters', { kind: 'marker' }, { markers })).toEqual([[300, 350]])
    expect(by('chapters', { kind: 'chapter', text: 't' }, { markers })).toEqual([
      [600, 800],
      [800, 1000],
    ])
  })
  it('into pieces, their ends moved to what is near enough', () => {
    expect(by('length', { length: 250 })).toEqual([250, 500, 750, 1000].map((n) => [n - 250, n]))
    expect(by('length', { length: 250, to: 'cut', within: 20 })).toEqual([
      [0, 240],
      [240, 520],
      [520, 750],
      [750, 1000],
    ])
    expect(by('count', { count: 5, to: 'silence', within: 10 })).toEqual(
      [0, 200, 400, 600, 800].map((n) => [n, n + 200]),
    )
    expect(by('count', { count: 4, to: 'silence', within: 36 })[0]).toEqual([0, 214])
    expect(by('count', { count: 2 }, { marked: { in: 100, out: 201 } })).toEqual([
      [100, 150],
      [150, 201],
    ])
  })
  it('pieces cover all of it without a gap, whatever they are moved to', () =>
    fc.assert(
      fc.property(
        fc.constantFrom('length', 'count'),
        fc.integer({ min: 1, max: 1200 }),
        fc.constantFrom('nothing', 'cut', 'silence'),
        fc.nat(400),
        (way, n, to, within) => {
          const list = by(way, { length: n, count: n, to, within })
          expect([list[0]![0], list.at(-1)![1]]).toEqual([0, 1000])
          list.forEach(([from, out], i) => expect([out! > from!, from]).toEqual([true, i ? list[i - 1]![1] : 0]))
          if (way === 'count') expect(list.length).toBeLessThanOrEqual(n)
          if (to === 'cut')
            for (const [from] of list.slice(1)) {
              const off = Math.min(...cutsOf(shots).map((c) => Math.abs(c - from!)))
              expect(off === 0 || off > within).toBe(true)
            }
        },
      ),
    ))
  it('the region in hand again, as often as there is room', () => {
    const region = { name: 'Fog Bell', in: 50, out: 150 }
    const made = rangesBy('repeat', { ...request, region }, { every: 300 })
    expect(plain(made)).toEqual([
      [350, 450],
      [650, 750],
    ])
    expect(made.map((r) => r.name)).toEqual(['Fog Bell 2', 'Fog Bell 3'])
    expect(by('repeat', { every: 300, times: 1 }, { region })).toEqual([[350, 450]])
    expect(code(() => by('repeat', { every: 300 }))).toBe('split.no-region')
  })
})

it('regions of an older version, with their papers, chapters and outlets; what is lost says why', () => {
  const cut = (reels: readonly string[]): Timeline => ({
    ...timeline,
    events: reels.map((reel, i) => ({
      ...{ track: 'V', kind: 'video', name: reel, reel, file: null, transition: null },
      ...{ source: { in: 0, out: 100, rate: timeline.rate }, speed: { num: 1, den: 1 } },
      record: { in: i * 100, out: i * 100 + 100 },
    })),
  })
  const region = (id: string, from: number) => ({
    id,
    name: id,
    in: from,
    out: from + 100,
    metadata: { language: 'en' },
  })
  const split = {
    regions: [region('a', 0), region('b', 100), region('c', 200)],
    markers: [{ id: 'm', at: 210, name: 'Fog' }],
  }
  const older = { id: 'v1', timeline: cut(['A', 'B', 'C']), split, outlets: new Map([['c', ['Web']]]) }
  const asked = { ...request, timeline: cut(['A', 'N', 'C']), older }
  const made = rangesBy('version', asked)
  expect(made.map((r) => [r.name, r.in, r.out, r.doubt])).toEqual([
    ['a', 0, 100, 'something new stands after it'],
    ['c', 200, 300, 'something new stands before it'],
  ])
  expect(made[1]).toMatchObject({
    metadata: { language: 'en' },
    outlets: ['Web'],
    chapters: [{ at: 210, name: 'Fog' }],
    from: { timelineId: 'v1', regionId: 'c' },
  })
  expect(splitMaker('version').lost!(asked)).toEqual([{ name: 'b', why: 'none of its shots is there any more' }])
  const other = { ...older, timeline: { ...older.timeline, rate: makeRate(24) } }
  expect(code(() => rangesBy('version', { ...asked, older: other }))).toBe('split.rate')
  expect(rangesBy('version', request)).toEqual([])
})

describe('regions of a file', () => {
  const of = (text: string, fileName = 'list.txt') => rangesBy('file', { ...request, list: { text, fileName } })
  it('as CSV, a list of cuts, chapters or lines', () => {
    expect(plain(of('name,in,out\na,01:00:01:00,01:00:02:00\n'))).toEqual([[25, 50]])
    const edl = 'TITLE: X\nFCM: NON-DROP FRAME\n001  A  V  C  00:00:00:00 00:00:02:00 01:00:04:00 01:00:06:00\n'
    expect(plain(of(edl, 'x.edl'))).toEqual([[100, 150]])
    const vtt = 'WEBVTT\n\n00:00:04.000 --> 00:00:08.000\nFog\n'
    expect(of(vtt, 'x.vtt')).toMatchObject([{ name: 'Fog', in: 100, out: 200 }])
    expect(of('01:00:04:00 01:00:08:00 Fog')).toMatchObject([{ name: 'Fog', in: 100, out: 200 }])
  })
  it('says what of a list lies outside the timeline, in part or wholly', () => {
    const event = (n: number, at: string, to: string) =>
      `00${n}  A${n}  V  C  00:00:00:00 00:00:02:00 01:00:${at}:00 01:00:${to}:00\n`
    const text = `TITLE: X\nFCM: NON-DROP FRAME\n${event(1, '04', '06')}${event(2, '39', '41')}${event(3, '50', '52')}`
    expect(of(text, 'x.edl').map((r) => [r.in, r.out, r.doubt])).toEqual([
      [100, 150, undefined],
      [975, 1000, 'it reaches outside the timeline'],
    ])
    const lost = splitMaker('file').lost!({ ...request, list: { text, fileName: 'x.edl' } })
    expect(lost).toEqual([{ name: 'A3', why: 'it lies outside the timeline' }])
  })
  it('says which line cannot be read, and when a list is of another timeline', () => {
    expect(() => of('01:00:04:00 01:00:08:00 Fog\nsoon')).toThrow('“soon”: there is no time in it.')
    const edl = 'TITLE: X\nFCM: NON-DROP FRAME\n001  A  V  C  00:00:00:00 00:00:02:00 05:00:04:00 05:00:06:00\n'
    expect(code(() => of(edl, 'x.edl'))).toBe('split.elsewhere')
  })
})

describe('what is typed for a setting', () => {
  const { least } = splitMaker('black').settings!
  it.each([
    ['25', 25],
    ['25f', 25],
    ['2s', 50],
    ['2.5 s', 63],
    ['1min', 1500],
    ['1m30s', 2250],
    ['0:02', 50],
    ['0:02.040', 51],
    ['00:00:02:01', 51],
  ])('%s', (text, frames) => expect(readValue(least!, text, timeline)).toBe(frames))
  it.each(['soon', '', '-3', '0', '1:99'])('refuses “%s”', (text) =>
    expect(code(() => readValue(least!, text, timeline))).toBe('split.setting'),
  )
  it('refuses what is none of the choices, naming them', () =>
    expect(() => readValue(splitMaker('length').settings!.to!, 'door', timeline)).toThrow('none of the choices'))
})

it('names regions by a pattern, its numbers in as many digits as the last one needs', () => {
  const ranges = rangesBy('shots', request)
  const context = { timeline, shots, markers: [{ id: 'm', at: 200, name: 'One' }] }
  expect(regionNames('{number} {shot}', ranges, context)[0]).toBe('01 Shot 1')
  expect(regionNames('{marker}', ranges, context)).toEqual(['', 'One', 'One', 'One'])
  expect(regionNames('{timecode} {name:4} {what}', ranges.slice(1, 2), context)).toEqual(['01:00:09:15 Shot {what}'])
  expect(regionNames('{number}', ranges, { ...context, first: 98 })).toEqual(['098', '099', '100', '101'])
})
