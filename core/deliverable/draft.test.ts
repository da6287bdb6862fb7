import { describe, expect, it } from 'vitest'
import type { MediaInfo } from '../media/media'
import { shippedRecipes } from '../recipe/registry'
import { openSpec } from '../spec/shipped'
import type { SplitTimeline } from '../split/timeline'
import { makeRate } from '../time/rate'
import { DraftMemo, type Situation } from './draft'
import { judgeDraft, nothingKnown } from './judged'
import { asksFor } from './outlet'

const info: MediaInfo = {
  container: 'wav',
  indexAt: 'front',
  size: 4_000_000,
  durationFrames: null,
  durationSeconds: 40,
  timecode: null,
  chapters: [],
  bext: null,
  problems: [],
  video: [],
  audio: [
    { codec: 'pcm', channels: 2, sampleRate: 48000, bitDepth: 24, samples: 1_920_000, layout: null, webCodec: null },
  ],
}
const region = (id: string, at: number) => ({ id, name: id, in: at, out: at + 100, metadata: {} })
const timeline: SplitTimeline = {
  id: 't',
  show: 'Skerrow',
  name: 'Bell v1',
  file: { root: 'storage', path: 'bell.wav' },
  cuts: null,
  cutsOffset: 0,
  linking: null,
  fingerprint: { size: 4_000_000, modified: 1, content: 'a' },
  info,
  model: {
    name: 'Bell v1',
    rate: makeRate(25),
    dropFrame: false,
    start: 90_000,
    length: 1000,
    tracks: [],
    events: [],
    markers: [],
  },
  problems: [],
  split: {
    regions: [region('a', 0), region('b', 100), region('c', 200)],
    markers: [{ id: 'm', at: 150, name: 'Fog' }],
  },
  splitVersion: 1,
}
const recipe = shippedRecipes().find((r) => r.kind === 'sound')!
const outlet = { id: 'o', name: 'o', recipe, spec: 'open', pattern: '{region}', root: 'storage', folder: 'out' }
const situation: Situation = {
  timelines: [timeline],
  outlets: [outlet],
  specs: [openSpec],
  choices: ['a', 'b', 'c'].map((regionId) => {
    return { timelineId: 't', regionId, outletId: 'o', chosen: true, overrides: {}, waivers: [] }
  }),
  abilities: { decodes: ['pcm'], encodes: ['pcm'] },
  paces: new Map(),
}
const withTimeline = (change: Partial<SplitTimeline>): Situation => ({
  ...situation,
  timelines: [{ ...timeline, ...change }],
})

/** Which drafts of a changed situation were made anew, after those of the first; all must be as if made afresh. */
function madeAnew(after: Situation): string[] {
  const memo = new DraftMemo()
  const before = new Set(memo.drafts(situation))
  const drafts = memo.drafts(after)
  expect(drafts).toEqual(new DraftMemo().drafts(after))
  return drafts.filter((d) => !before.has(d)).map((d) => d.region.id)
}

it('a part that lies behind the end of its timeline, which became shorter, is none', () => {
  const master = shippedRecipes().find((r) => r.kind === 'broadcast')!
  const regions = [
    { ...region('whole', 0), out: 1200 },
    ...[100, 950, 1100].map((at) => ({ ...region(`p${at}`, at), kind: 'part' as const })),
  ]
  const drafts = new DraftMemo().drafts({
    ...withTimeline({ split: { regions, markers: [] } }),
    outlets: [{ ...outlet, recipe: { ...master, breaks: 0 } }],
    choices: [{ timelineId: 't', regionId: 'whole', outletId: 'o', chosen: true, overrides: {}, waivers: [] }],
  })
  expect(drafts[0]!.output.sections).toEqual([
    { kind: 'timeline', from: 100, frames: 100 },
    { kind: 'timeline', from: 950, frames: 50 },
  ])
})

describe('drafts', () => {
  it('are kept while nothing they follow from changes', () => {
    expect(madeAnew({ ...situation })).toEqual([])
    expect(madeAnew(withTimeline({ splitVersion: 2 }))).toEqual([])
  })
  it('are the same list while everything is the same', () => {
    const memo = new DraftMemo()
    const first = memo.drafts(situation)
    expect(memo.drafts({ ...situation, paces: new Map([['x', 2]]) })).toBe(first)
    expect(memo.drafts({ ...situation, choices: [...situation.choices] })).not.toBe(first)
  })
  it('of one region are made anew when it is edited', () => {
    const [a, b, c] = timeline.split.regions
    const split = { ...timeline.split, regions: [a!, { ...b!, out: 190 }, c!] }
    expect(madeAnew(withTimeline({ split }))).toEqual(['b'])
  })
  it('are numbered anew when a region before them goes', () => {
    const split = { ...timeline.split, regions: timeline.split.regions.slice(1) }
    expect(madeAnew(withTimeline({ split }))).toEqual(['b', 'c'])
  })
  it.each<[string, Situation]>([
    ['the media', withTimeline({ fingerprint: { ...timeline.fingerprint, content: 'b' } })],
    ['its place', withTimeline({ file: { root: 'storage', path: 'moved/bell.wav' } })],
    ['its headers', withTimeline({ info: { ...info, durationSeconds: 39 } })],
    ['the cut', withTimeline({ model: { ...timeline.model, length: 900 } })],
    ['the name', withTimeline({ name: 'Bell v2' })],
    ['a marker', withTimeline({ split: { ...timeline.split, markers: [] } })],
    ['the outlet', { ...situation, outlets: [{ ...outlet, pattern: '{number}' }] }],
    ['the specification', { ...situation, specs: [{ ...openSpec, name: 'Open, again' }] }],
    ['what the machine can do', { ...situation, abilities: { decodes: [], encodes: [] } }],
  ])('are all made anew when %s changes', (_, after) => {
    expect(madeAnew(after)).toEqual(['a', 'b', 'c'])
  })
  it('carry the chapters within their region, counted from its first frame', () => {
    expect(new DraftMemo().drafts(situation).map((d) => d.chapters)).toEqual([[], [{ at: 50, name: 'Fog' }], []])
  })
})

describe('handles', () => {
  const drafts = (handles: number, start = 'timeline') =>
    new DraftMemo().drafts({ ...situation, outlets: [{ ...outlet, recipe: { ...recipe, handles, start } }] })
  it('widen what is delivered, and its timecode with it', () => {
    const [, b] = drafts(30)
    expect([b!.region, b!.handles, b!.output.frames]).toMatchObject([
      { in: 70, out: 230 },
      { before: 30, after: 30 },
      160,
    ])
    expect([b!.output.start.frames, b!.chapters, b!.output.notes]).toEqual([90_070, [{ at: 80, name: 'Fog' }], []])
  })
  it('are shorter where the timeline ends, and that is said', () => {
    const [a] = drafts(950)
    expect([a!.region.in, a!.region.out, a!.handles]).toEqual([0, 1000, { before: 0, after: 900 }])
    expect(a!.output.notes).toEqual(['The timeline has no more than 0 frames for handles before it and 900 after it.'])
  })
  it('lie before a start that was set: it is that of the region', () => {
    expect(drafts(30, '10:00:00:00').map((d) => d.output.start.label)).toEqual([
      '10:00:00:00',
      '09:59:58:20',
      '09:59:58:20',
    ])
    expect(drafts(30, '00:00:00:00')[1]!.output.start.label).toBe('23:59:58:20')
  })
})

describe('what an outlet asks of regions', () => {
  const kinds = ['programme', 'promo'] as const
  const asking = { ...outlet, kinds: [...kinds] }
  const regions = timeline.split.regions.map((r, i) => (i === 2 ? r : ({ ...r, kind: i ? 'break' : 'promo' } as const)))
  const judged = (of: typeof outlet) => {
    const drafts = new DraftMemo().drafts({ ...withTimeline({ split: { regions, markers: [] } }), outlets: [of] })
    const target = { path: 'a.wav', version: 1, bad: null }
    const known = nothingKnown(target)
    return drafts.map((d) => judgeDraft(d, known).results.find((r) => r.rule.id === 'outlet-kind'))
  }
  it('fails regions of other kinds, and of none', () => {
    expect(judged(asking).map((r) => [r!.verdict, r!.required, r!.forecast!.text])).toEqual([
      ['pass', 'programmes, promos', 'promo'],
      ['fail', 'programmes, promos', 'break'],
      ['fail', 'programmes, promos', 'of no kind'],
    ])
    expect(judged(outlet)).toEqual([undefined, undefined, undefined])
  })
  it('tells what is asked for', () => {
    expect(regions.map((r) => asksFor(asking, r))).toEqual([true, false, false])
    expect(regions.map((r) => asksFor(outlet, r))).toEqual([false, false, false])
  })
})
