import { expect, it } from 'vitest'
import type { MediaInfo } from '../media/media'
import { recipeKind } from '../recipe/registry'
import { routeOf, saidLayout } from '../sound/layout'
import { meets } from '../spec/judge'
import { openSpec } from '../spec/shipped'
import { rulesFor } from '../spec/spec'
import { makeRate } from '../time/rate'
import type { PictureFacts } from '../analysis/pictures'
import type { SoundFacts } from '../analysis/soundfacts'
import type { Evidence } from './measure'
import { measureOf } from './registry'

// What people fall into: each is told from what is as it should be.

const rules = rulesFor(openSpec, 'before', { pictures: true, trial: false }).filter((r) => r.id.startsWith('trap-'))
const said = (measure: string, evidence: Evidence) => {
  const reading = measureOf(measure).read(evidence)
  return reading && [meets(reading.value!, rules.find((r) => r.measure === measure)!.expect), reading.text]
}
const heard = (route: number[], ...loud: number[]) => ({
  heard: { route, peaks: Array.from({ length: 8 }, (_, c) => (loud.includes(c) ? -6 : c === 7 ? -61 : null)) },
})

const handles = (wanted: number, before: number, after: number) => ({
  handles: { wanted, before, after, rate: makeRate(25) },
})

const madeOnce = {
  parts: ['line-up'],
  lengths: { 'line-up': 20 },
  text: 'bars',
  tones: [-18],
  start: '10:00:00:00',
  seconds: 4,
  length: '00:00:04:00',
}

const coded = (...channels: number[]): SoundFacts => ({
  ...{ integrated: -23, range: 5, truePeak: -3, momentaryMax: -20, shortTermMax: -21, peaks: [-3, -3, -1, -1] },
  ...{ pairs: [], others: [], untold: [], coded: { channels, counted: false } },
})
const blanking = { kind: 'ancillary', label: 'ancillary data', carries: ['captions-708'] } as const
const titles = { kind: 'text', label: 'TTML subtitles', carries: [] } as const

const surround = { left: 0, right: 1, centre: 2, all: [0, 1, 2, 3, 4, 5] }

it('there are rules for each, which keep nothing back', () => {
  expect(rules.map((r) => [r.measure, r.severity])).toEqual(
    [
      'trial',
      'set-raster',
      'heard-channels',
      'channel-order',
      'line-up-twice',
      'short-handles',
      'alpha',
      'data-kept',
      'drawn-in',
      'coded-kept',
      'full-scale',
      'fields',
      'cadence',
    ].map((m) => [m, 'should']),
  )
})

it.each<[string, Evidence, [boolean, string] | null]>([
  ['trial', { trial: 'no' }, [true, 'no']],
  ['trial', { trial: 'half' }, [false, 'half size']],
  ['trial', {}, null],
  ['line-up-twice', { lineUp: madeOnce }, [true, 'no second one']],
  [
    'line-up-twice',
    { lineUp: { ...madeOnce, again: 'tone from 10:00:00:00' } },
    [false, 'and the region has its own: tone from 10:00:00:00'],
  ],
  ['short-handles', handles(0, 0, 0), [true, 'none asked for']],
  ['short-handles', handles(25, 25, 25), [true, '25 frames before and after']],
  ['short-handles', handles(25, 25, 3), [false, '25 before and 3 after it on the timeline, 25 frames each asked for']],
  ['drawn-in', { drawn: { what: [], master: true } }, [true, 'nothing']],
  ['drawn-in', { drawn: { what: ['name', 'mark'], master: false } }, [true, 'name and mark']],
  ['drawn-in', { drawn: { what: ['timecode'], master: true } }, [false, 'timecode, of a master']],
  ['alpha', { alpha: { source: false, file: false } }, [true, 'the source has none']],
  ['alpha', { alpha: { source: true, file: true } }, [true, 'kept']],
  ['alpha', { alpha: { source: true, file: false } }, [false, 'the source has one, which the file is without']],
  ['coded-kept', { sound: coded(), soundKept: false }, [true, 'the source has none']],
  ['coded-kept', { sound: coded(2, 3), soundKept: true }, [true, 'kept: channels 3 and 4']],
  ['coded-kept', { sound: coded(2), soundKept: false }, [false, 'what channel 3 carries does not survive this recipe']],
  ['coded-kept', { sound: coded(2) }, null],
  ['coded-kept', heard([]), [true, 'no sound is written']],
  ['data-kept', { data: { source: [], lost: [] } }, [true, 'the source has none']],
  ['data-kept', { data: { source: [blanking], lost: [] } }, [true, 'kept: ancillary data (CEA-708 captions)']],
  [
    'data-kept',
    { data: { source: [blanking, titles], lost: [titles] } },
    [false, 'the source has TTML subtitles, which the file is without'],
  ],
  ['heard-channels', heard([0, 1], 0, 1), [true, 'channels 1 and 2']],
  ['heard-channels', heard([], 0, 1), [true, 'none is written']],
  // silence that is asked for by name is no trap: tracks of EBU R 123 are filled so
  ['heard-channels', heard([0, 1, -1, -1, -1, -1], 0, 1), [true, 'channels 1 and 2']],
  ['heard-channels', heard([0, 1, 2, 3, 4, 5, 6, 7], 0, 1), [false, 'channels 1 and 2 of 8 written']],
  ['heard-channels', heard([0, 1, 2, 3], 0, 1, 2), [true, 'channels 1, 2 and 3']],
  [
    'heard-channels',
    heard([4, 5], 0, 1),
    [false, 'none of those written; there is sound in channels 1 and 2 of the source'],
  ],
  ['heard-channels', heard([0, 1]), [false, 'none: channels 1 and 2 of the source are silent']],
  ['heard-channels', heard([7]), [false, 'none: channel 8 of the source is silent']],
  ...(
    [
      [[0, 1], false],
      [[0, 1, 2], true],
      [[4, 5], true],
    ] as const
  ).map(([route, fine]): [string, Evidence, [boolean, string]] => [
    'heard-channels',
    { heard: { ...heard([...route], 0, 1, 2, 4, 5).heard!, surrounds: [surround] } },
    fine
      ? [true, route.length === 2 ? 'channels 5 and 6' : 'channels 1, 2 and 3']
      : [false, 'channels 1 and 2 of a mix in surround, without the sound of its centre, channel 3'],
  ]),
  // brought together, its centre is in it; and few of its channels are no fault of what comes of them
  [
    'heard-channels',
    { heard: { ...heard([0, 1, 2, 3, 4, 5], 0, 1).heard!, surrounds: [surround], together: true } },
    [true, 'channels 1 and 2'],
  ],
  ['heard-channels', {}, null],
  ['channel-order', { layout: null }, [true, 'nothing says which is which']],
  ['channel-order', { layout: 'L R C LFE Ls Rs L R' }, [true, 'L R C LFE Ls Rs L R']],
  ['channel-order', { layout: 'L R C LFE Ls Rs Rls Rrs' }, [true, 'L R C LFE Ls Rs Rls Rrs']],
  ['channel-order', { layout: 'L C R Ls Rs LFE' }, [false, 'L C R Ls Rs LFE']],
  ['channel-order', { layout: 'L R L C R' }, [false, 'L R L C R']],
  ['channel-order', { layout: 'Lt Rt' }, [true, 'Lt Rt']],
  ['channel-order', { layout: 'L L' }, [true, 'L L']],
  ['channel-order', { layout: 'L C' }, [false, 'L C']],
  ['channel-order', {}, null],
  ['full-scale', { driven: [-3, null, 0] }, [true, 'no sample is beyond it']],
  ['full-scale', { driven: [] }, [true, 'no sample is beyond it']],
  ['full-scale', { driven: 'copied' }, [true, 'copied as it is']],
  ['full-scale', { driven: [0.01, -1] }, [false, 'channel 1 up to 0.1 dB beyond it, cut off there']],
  ['full-scale', { driven: [2.31, -1, 3.2] }, [false, 'channels 1 and 3 up to 3.2 dB beyond it, cut off there']],
  ['full-scale', {}, null],
])('%s of %j', (measure, evidence, expected) => expect(said(measure, evidence)).toEqual(expected))

it('pictures repeated in a beat are a trap, those that are held are none', () => {
  const base = { rate: makeRate(25), dropFrame: false, start: 0 }
  const of = (cadence: PictureFacts['cadence']) =>
    said('cadence', { pictures: { black: [], freeze: [], flashes: [], cadence }, base })
  const stretch = { in: 50, out: 175 }
  expect(of([])).toEqual([true, 'none repeated in a beat'])
  expect(of([{ ...stretch, every: 2, shown: 2 }])).toEqual([true, 'each picture twice (125 frames at 00:00:02:00)'])
  expect(
    of([
      { ...stretch, every: 25, shown: 1 },
      { ...stretch, every: 2, shown: 2 },
    ]),
  ).toEqual([false, 'one picture in 25 is the one before again (125 frames at 00:00:02:00)'])
  // of facts of an earlier edition it is not known
  expect(of(undefined)).toBeNull()
})

it('a raster of a region’s own is a trap where it is smaller than its outlet’s', () => {
  const of = (here: [number, number], outlet: [number, number]) =>
    said('set-raster', {
      rasters: { here: { width: here[0], height: here[1] }, outlet: { width: outlet[0], height: outlet[1] } },
    })
  expect(of([960, 540], [1920, 1080])).toEqual([false, '960×540, smaller than its outlet’s 1920×1080'])
  expect(of([1920, 1080], [1920, 1080])).toEqual([true, 'its outlet’s'])
  expect(of([1920, 1080], [1280, 720])).toEqual([true, '1920×1080, not smaller than its outlet’s'])
})

it('few channels of many have a plain fix: those that are heard', () => {
  const measure = measureOf('heard-channels')
  const forecast = { ...measure.read(heard([0, 1, 2, 3, 4, 5, 6, 7], 2, 5))!, from: '' }
  const request = { expect: { equals: '' }, forecast, source: null, recipe: recipeKind({ kind: 'master' }).shipped }
  expect(measure.fix!({ ...request, media: {} as never })).toEqual({ channels: [3, 6] })
})

it('a front pair without its centre has a plain fix: its mix, brought together', () => {
  const measure = measureOf('heard-channels')
  const evidence = {
    heard: { ...heard([1, 2], 1, 2, 3).heard!, surrounds: [{ ...surround, left: 1, right: 2, centre: 3 }] },
  }
  const forecast = { ...measure.read(evidence)!, from: '' }
  const audio = [
    { channels: 1, layout: null },
    { channels: 6, layout: null },
  ]
  const recipe = { ...recipeKind({ kind: 'master' }).shipped, channels: [2, 3] }
  const request = { expect: { equals: '' }, forecast, source: null, recipe, media: { audio } as unknown as MediaInfo }
  expect(measure.fix!(request)).toEqual({ channels: [2, 3, 4, 5, 6, 7], downmix: 'stereo' })
  // and none where it could not be brought together
  const wide = { audio: [{ channels: 8, layout: 'L R C LFE Ls Rs Rls Rrs' }] } as unknown as MediaInfo
  const front = { ...recipe, channels: [1, 2] }
  expect(measure.fix!({ ...request, recipe: front, media: wide })).toBeNull()
})

it.each([
  ['a surround for two', 'L R C LFE Ls Rs', 2, { downmix: 'stereo' }],
  ['a surround for one', 'L R C LFE Ls Rs', 1, { downmix: 'mono' }],
  ['pairs for two', 'L R L R L R', 2, { channels: [1, 2] }],
  ['a surround for four', 'L R C LFE Ls Rs', 4, { channels: [1, 2, 3, 4] }],
] as const)('too many channels have a plain fix: %s', (_, layout, equals, fix) => {
  const media = { audio: [{ channels: 6, layout }] } as unknown as MediaInfo
  const recipe = recipeKind({ kind: 'master' }).shipped
  const request = { expect: { equals }, forecast: null, source: null, recipe, media }
  expect(measureOf('channels').fix!(request)).toEqual(fix)
})

it.each([
  ['L C R Ls Rs LFE', 'all', [1, 3, 2, 6, 4, 5]],
  ['L C R Ls Rs LFE', [1, 2], [1, 2, 3, 4, 5, 6], 'stereo'],
  ['L C LFE L R', [1, 2], [4, 5]],
  ['L R L C R LFE', 'all', [1, 2, 3, 5, 4, 6]],
  ['C LFE', 'all', null],
  ['L R', 'all', null],
] as const)('channels %s in another order have a plain fix', (layout, channels, fixed, downmix?: 'stereo') => {
  const measure = measureOf('channel-order')
  const audio = [{ layout, channels: layout.split(' ').length }]
  const media = { audio } as unknown as MediaInfo
  const recipe = { ...recipeKind({ kind: 'master' }).shipped, channels: channels === 'all' ? channels : [...channels] }
  const route = routeOf(channels, layout.split(' ').length)
  const forecast = { ...measure.read({ layout: saidLayout(media.audio, route) })!, from: '' }
  expect(measure.fix!({ expect: { equals: '' }, forecast, source: null, recipe, media })).toEqual(
    fixed && { channels: fixed, ...(downmix ? { downmix } : {}) },
  )
})

it('sound beyond full scale has a plain fix: as much less gain', () => {
  const measure = measureOf('full-scale')
  const forecast = { ...measure.read({ driven: [2.31, -1] })!, from: '' }
  const recipe = { ...recipeKind({ kind: 'master' }).shipped, gain: 6 }
  const request = { expect: { equals: '' }, source: null, recipe, media: {} as never }
  expect(measure.fix!({ ...request, forecast })).toEqual({ gain: 3.6 })
  expect(measure.fix!({ ...request, forecast: { ...measure.read({ driven: [-1] })!, from: '' } })).toBeNull()
})
