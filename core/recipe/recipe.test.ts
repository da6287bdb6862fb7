import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { bt709 } from '../media/colour'
import type { AudioInfo, MediaInfo, VideoInfo } from '../media/media'
import { makeRate, rates, type Rate } from '../time/rate'
import { sampleAtFrame } from '../time/samples'
import { timecodeToFrames } from '../time/timecode'
import { avcLevel } from '../codec/h264/codec'
import { layoutOf, routeOf, sourceChannels } from '../sound/layout'
import type { Abilities, Output, OutputRequest } from './output'
import type { Recipe } from './recipe'
import {
  fileNameOf,
  overridesSchema,
  recipeKind,
  recipeKinds,
  recipeSchema,
  shippedRecipes,
  withOverrides,
} from './registry'
import { settingText, settingValue, settings } from './settings'
import { pictureKilobits, trialNames } from './trial'

const describeOutput = (
  settings: Recipe,
  source: MediaInfo,
  timeline: OutputRequest['timeline'],
  range: OutputRequest['range'],
  abilities: Abilities,
) => recipeKind(settings).output({ settings, source, timeline, range, abilities })

const able: Abilities = {
  encodes: ['h264', 'aac', 'v210', 'pcm'],
  decodes: ['v210', 'uyvy', 'h264', 'hevc', 'pcm', 'aac'],
}
const video: VideoInfo = {
  codec: 'h264',
  profile: 'High',
  level: '4.1',
  width: 1920,
  height: 1080,
  rate: makeRate(25),
  constantRate: true,
  scan: 'interlaced-tff',
  chroma: '4:2:0',
  bitDepth: 8,
  pixelAspect: '1:1',
  colour: null,
  frames: 1000,
  intra: false,
  webCodec: 'avc1.640029',
}
const audio: AudioInfo = {
  codec: 'pcm',
  channels: 4,
  sampleRate: 48000,
  bitDepth: 24,
  samples: 1_920_000,
  layout: null,
  webCodec: null,
}
const media = (
  v: Partial<VideoInfo> | null = {},
  a: readonly Partial<AudioInfo>[] = [{}],
  more: Partial<MediaInfo> = {},
): MediaInfo => ({
  container: 'mov',
  indexAt: 'front',
  size: 40_000_000,
  durationFrames: 1000,
  durationSeconds: 40,
  timecode: null,
  chapters: [],
  bext: null,
  problems: [],
  video: v ? [{ ...video, ...v }] : [],
  audio: a.map((x) => ({ ...audio, ...x })),
  ...more,
})
const recipe = (kind: string, more: Partial<Recipe> = {}): Recipe => ({
  ...shippedRecipes().find((r) => r.kind === kind)!,
  ...more,
})
const at = (rate: Rate = makeRate(25), dropFrame = false) => ({
  rate,
  dropFrame,
  start: timecodeToFrames(10, 0, 0, 0, { rate, dropFrame })!,
})
const codes = (r: Recipe, source = media(), abilities = able) =>
  describeOutput(r, source, at(), { in: 100, out: 350 }, abilities).problems.map((p) => p.code)

describe('what a file will be', () => {
  it('a rewrap of several tracks says of each what it is', () => {
    const two = media({}, [{}, { bitDepth: 16 }])
    const { audio } = describeOutput(recipe('rewrap'), two, at(), { in: 100, out: 350 }, able)
    expect(audio!.each!.map((t) => t.bitDepth)).toEqual([24, 16])
  })
  it('a broadcast master is of the class that its recipe names, in that class’s shape, and says what it loses', () => {
    const deep = media({ chroma: '4:2:2', bitDepth: 10, codec: 'v210', scan: 'progressive', webCodec: null })
    const of = (r: Recipe) => describeOutput(r, deep, at(), { in: 100, out: 350 }, able)
    expect(of(recipe('broadcast')).video).toMatchObject({
      ...{ profile: 'High 4:2:2 Intra', level: '4.1', width: 1920, pixelAspect: '1:1', pictureBytes: 568_832 },
    })
    const small = of(recipe('broadcast-50'))
    expect(small.video).toMatchObject({
      ...{ profile: 'High 10 Intra', level: '4.0', width: 1440, pixelAspect: '4:3', pictureBytes: 281_088 },
      ...{ chroma: '4:2:0', bitDepth: 10 },
    })
    expect([small.problems, small.notes]).toEqual([[], ['Its chroma is 4:2:0; that of the source is 4:2:2.']])
    expect(codes(recipe('broadcast-50', { width: 1920 }), deep)).toEqual(['recipe.class'])
    expect(codes(recipe('broadcast', { width: 1440 }), deep)).toEqual(['recipe.class'])
    const [none] = of(recipe('broadcast-50', { width: 640 })).problems
    expect(none).toMatchObject({
      code: 'h264-intra.class',
      message: 'No class of intra pictures has any of 640×1080, segmented frames (PsF), at 25.',
      fix: expect.stringContaining('1440×1080 in fields at 25') as string,
    })
  })
  it('a rewrap is the source as it is', () => {
    expect(
      describeOutput(recipe('rewrap', { channels: [1], gain: 3 }), media(), at(), { in: 100, out: 350 }, able),
    ).toMatchObject({
      container: 'mov',
      frames: 250,
      samples: 480_000,
      start: { label: '10:00:04:00' },
      problems: [],
      video: { codec: 'h264', profile: 'High', width: 1920, scan: 'interlaced-tff', chroma: '4:2:0', bitDepth: 8 },
      audio: { codec: 'pcm', channels: 4, bitDepth: 24 },
    })
  })
  it('a master is 10 bit 4:2:2 in the source’s raster or another, sound by its route', () => {
    const out = describeOutput(
      recipe('master', { width: 1280, height: 720, channels: [2, 0, 1], start: '09:59:30:00' }),
      media({ pixelAspect: '4:3' }),
      at(),
      { in: 0, out: 25 },
      able,
    )
    expect(out).toMatchObject({
      container: 'mov',
      start: { label: '09:59:30:00' },
      video: {
        codec: 'v210',
        width: 1280,
        height: 720,
        chroma: '4:2:2',
        bitDepth: 10,
        scan: 'interlaced-tff',
        pixelAspect: '1:1',
      },
      audio: { codec: 'pcm', channels: 3, layout: null },
    })
    expect(
      describeOutput(
        recipe('master', { channels: 'none' }),
        media({ pixelAspect: '4:3' }),
        at(),
        { in: 0, out: 25 },
        able,
      ),
    ).toMatchObject({ video: { width: 1920, pixelAspect: '4:3' }, audio: null })
  })
  it('a viewing copy is progressive 8 bit with its index in front', () => {
    expect(describeOutput(recipe('viewing'), media(), at(), { in: 0, out: 250 }, able)).toMatchObject({
      container: 'mp4',
      indexAt: 'front',
      video: { codec: 'h264', profile: 'High', width: 1280, height: 720, scan: 'progressive' },
      audio: { codec: 'aac', channels: 2 },
    })
  })
  it('a trial is smaller on each side, keeps its shape and its fields, and takes fewer bits', () => {
    const of = (r: Recipe, m: MediaInfo) => describeOutput(r, m, at(), { in: 0, out: 250 }, able)
    const sides = (r: Recipe, m = media()) => [of(r, m).video!.width, of(r, m).video!.height]
    expect(sides(recipe('viewing', { trial: 'half' }))).toEqual([640, 360])
    expect(sides(recipe('master', { trial: 'eighth' }))).toEqual([240, 136])
    // as many whole pairs of lines in either field
    expect(sides(recipe('master', { trial: 'half' }), media({ width: 720, height: 486 }))).toEqual([360, 244])
    expect(sides(recipe('viewing', { trial: 'whole' }))).toEqual([1280, 720])
    const anamorphic = media({ width: 720, height: 576, pixelAspect: '64:45' })
    expect(of(recipe('master', { trial: 'quarter' }), anamorphic).video).toMatchObject({
      ...{ width: 180, height: 144, pixelAspect: '64:45' },
    })
    const kilobits = trialNames.map((trial) => pictureKilobits({ trial, pictureBitrate: 6000 }))
    expect(kilobits).toEqual([6000, 3000, 750, 188, 100])
  })
  it('what a kind has no setting for is what its shipped recipe says, whatever stands in a recipe', () => {
    const odd = withOverrides(recipe('sound', { trial: 'half', table: 'lamp-0123', width: 320, gain: -3 }), {
      gain: -6,
    })
    expect(odd).toEqual(recipe('sound', { gain: -6 }))
    expect(withOverrides(recipe('sequence', { channels: [1, 2] }), { trial: 'half' })).toEqual(
      recipe('sequence', { trial: 'half' }),
    )
  })
  it('sound is a wave file, RF64 when it does not fit one', () => {
    expect(describeOutput(recipe('sound', { soundDepth: 16 }), media(), at(), { in: 0, out: 250 }, able)).toMatchObject(
      { container: 'wav', video: null, audio: { channels: 4, bitDepth: 16 } },
    )
    expect(
      describeOutput(recipe('sound'), media({}, [{ channels: 16 }]), at(), { in: 0, out: 25 * 3600 }, able).container,
    ).toBe('rf64')
  })
  it('samples of neighbouring ranges add up to those of both, at every rate (property)', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...rates),
        fc.integer({ min: 0, max: 90_000 }),
        fc.integer({ min: 1, max: 5000 }),
        fc.integer({ min: 1, max: 5000 }),
        (rate, from, n, m) => {
          const of = (a: number, b: number) =>
            describeOutput(recipe('sound'), media(), at(rate), { in: a, out: b }, able).samples
          expect(of(from, from + n) + of(from + n, from + n + m)).toBe(of(from, from + n + m))
          expect(of(0, from + 1)).toBe(sampleAtFrame(from + 1, rate, 48000))
        },
      ),
    )
  })
  it('is forecast in bytes: what an uncompressed minute takes, to the byte but for its head', () => {
    const o = describeOutput(recipe('master', { channels: [1, 2] }), media(), at(), { in: 0, out: 1500 }, able)
    expect(o.bytes - 20_000).toBe(1500 * 5120 * 1080 + 2_880_000 * 6)
  })
})

describe('a start from the source', () => {
  const of = (taken: OutputRequest['taken'], more: Partial<OutputRequest> = {}) => {
    const settings = recipe('master', { start: 'source', handles: 10 })
    const range = { in: 90, out: 360 }
    const request = { settings, source: media(), timeline: at(), range, before: 10, abilities: able, taken, ...more }
    return recipeKind(settings).output(request)
  }
  const place = { frames: 90_012, rate: makeRate(25), dropFrame: false, reel: 'A' }
  it('is that of the region’s first picture, whatever lies before it', () => {
    const { start, problems, notes } = of(place)
    expect([start.label, problems]).toEqual(['01:00:00:02', []])
    expect(notes).toContain('Its timecode is that of its first picture’s source, and counts on from there.')
    expect(of({ ...place, frames: 4 }).start.label).toBe('23:59:59:19')
  })
  it('drops labels as its source does', () => {
    const rate = makeRate(30000, 1001)
    const timeline = { rate, dropFrame: false, start: 0 }
    const dropped = of({ ...place, rate, dropFrame: true, frames: 1810 }, { timeline })
    expect(dropped.start).toMatchObject({ label: '00:01:00;02', dropFrame: true })
    expect(of({ ...place, rate, frames: 1810 }, { timeline: { ...timeline, dropFrame: true } }).start.label).toBe(
      '00:01:00:00',
    )
  })
  it('is none where nothing says it, or where it counts otherwise than the timeline', () => {
    for (const [taken, why] of [
      [null, /Nothing says/],
      [{ ...place, rate: makeRate(24) }, /counts 24 frames a second/],
    ] as const)
      expect(of(taken).problems).toMatchObject([
        { code: 'recipe.start', message: expect.stringMatching(why) as string },
      ])
  })
  it('is read as it is said, or typed', () => {
    for (const text of ['source', 'from the source', 'From the Source'])
      expect(settingValue('start', text)).toBe('source')
    for (const text of ['', 'timeline', 'from the timeline']) expect(settingValue('start', text)).toBe('timeline')
    expect([settingText('start', 'source'), settingText('start', 'timeline')]).toEqual([
      ...['from the source', 'from the timeline'],
    ])
    expect(settingValue('start', '10:00:00:00')).toBe('10:00:00:00')
  })
})

describe('what keeps it from being made', () => {
  it.each<[string, Recipe, MediaInfo, string[]]>([
    ['nothing', recipe('viewing'), media(), []],
    ['a start that is no timecode', recipe('master', { start: '10:00:00:27' }), media(), ['recipe.start']],
    ['a channel that is not there', recipe('master', { channels: [1, 5] }), media(), ['recipe.channel']],
    ['no pictures', recipe('master'), media(null), ['recipe.no-pictures']],
    ['no sound', recipe('sound'), media({}, []), ['recipe.no-sound']],
    ['no channels chosen', recipe('sound', { channels: 'none' }), media(), ['recipe.no-sound']],
    [
      'pictures nobody decodes',
      recipe('master'),
      media({ codec: 'vc-5', webCodec: null, chroma: '4:2:2', bitDepth: 10 }),
      ['codec.none'],
    ],
    ['one of several kinds nobody decodes', recipe('viewing'), media({ codec: 'h264+vc-5' }), ['codec.none']],
    ['depth that the decoder loses', recipe('master'), media({ bitDepth: 10 }), ['codec.depth']],
    ['sound nobody decodes', recipe('viewing'), media({}, [{ codec: 'ac-3' }]), ['codec.unknown']],
    ['the same rewrapped', recipe('rewrap'), media({ codec: 'vc-5' }, [{ codec: 'ac-3' }]), []],
    [
      'a contact sheet of pictures nobody decodes',
      recipe('rewrap', { contactSheet: 12 }),
      media({ codec: 'vc-5' }),
      ['recipe.contact-sheet'],
    ],
    ['the same beside what is taken', recipe('viewing'), media({}, [{}, { codec: 'ac-3' }]), []],
    [
      'sound at another rate than most',
      recipe('sound', { channels: 'all' }),
      media({}, [{ channels: 2 }, { channels: 1, sampleRate: 44_100 }]),
      ['media.mixed-sample-rates'],
    ],
    ['five channels to view', recipe('viewing', { channels: [1, 2, 3, 4, 0] }), media(), ['recipe.channel']],
    ['a rewrap as a wave file', recipe('rewrap', { container: 'wav' }), media(), ['recipe.container']],
    ['a rewrap from MOV into MP4', recipe('rewrap', { container: 'mp4' }), media(), ['recipe.container']],
    ['a rewrap from MP4 into MP4', recipe('rewrap', { container: 'mp4' }), media({}, [{}], { container: 'mp4' }), []],
    ['a rewrap of Matroska', recipe('rewrap'), media({}, [{}], { container: 'matroska' }), ['recipe.container']],
    ['a rewrap of stills', recipe('rewrap'), media({}, [{}], { container: 'stills' }), ['recipe.container']],
  ])('%s', (_, r, source, want) => expect(codes(r, source)).toEqual(want))
  it('a rewrap of MXF whose tracks run at two rates', () => {
    const said = (sampleRate: number) =>
      describeOutput(
        recipe('rewrap', { container: 'mxf' }),
        media({}, [{ channels: 1 }, { channels: 1, sampleRate }], { container: 'mxf' }),
        ...([at(), { in: 0, out: 50 }, able] as const),
      ).problems.map((p) => p.message)
    const why = 'Sound at several sample rates is not rewrapped into MXF here.'
    expect([said(48_000).includes(why), said(44_100).includes(why)]).toEqual([false, true])
  })
  it('but no sound in the source keeps nothing back: it is noted', () => {
    for (const kind of ['viewing', 'master']) {
      const o = describeOutput(recipe(kind, { channels: [1, 2] }), media({}, []), at(), { in: 0, out: 50 }, able)
      expect([o.problems, o.audio]).toEqual([[], null])
      expect(o.notes).toContain('The source has no sound: the file has none either.')
    }
    const none = recipe('viewing', { channels: 'none' })
    const mute = describeOutput(none, media({}, []), at(), { in: 0, out: 50 }, able)
    expect(mute.notes).toEqual(['Its fields are joined: the file is progressive.'])
    const whole = media({ scan: 'progressive' }, [])
    expect(describeOutput(none, whole, at(), { in: 0, out: 50 }, able)).not.toHaveProperty('notes')
  })
  it('but an LFE that is coded is cut off above, which is noted', () => {
    const noted = (channels: 'all' | number[]) =>
      describeOutput(recipe('viewing', { channels }), media({}, [{ channels: 6 }]), at(), { in: 0, out: 50 }, able)
        .notes
    const low = 'AAC keeps of channel 4, the LFE, only what lies below 280 Hz.'
    expect([noted('all'), noted([1, 2])].map((notes) => notes?.includes(low))).toEqual([true, false])
  })
  it('a machine without codecs', () => {
    const none: Abilities = { encodes: ['v210', 'pcm'], decodes: ['v210', 'uyvy', 'pcm'] }
    expect(codes(recipe('viewing'), media({ codec: 'v210', webCodec: null }), none)).toEqual([
      'codec.none',
      'codec.none',
    ])
    expect(codes(recipe('viewing', { channels: 'none' }), media({ codec: 'v210', webCodec: null }), none)).toEqual([
      'codec.none',
    ])
    expect(codes(recipe('master'), media(), none)).toEqual(['codec.none'])
    expect(codes(recipe('sound'), media(), none)).toEqual([])
  })
  it('always says what to do', () => {
    for (const { kind } of recipeKinds) {
      for (const source of [media(null, []), media({ codec: 'vc-5' }, [{ codec: 'ac-3' }], { container: 'stills' })]) {
        for (const p of describeOutput(
          recipe(kind, { start: '10:00:00:99', channels: [9] }),
          source,
          at(),
          { in: 0, out: 10 },
          able,
        ).problems)
          expect([p.message.length > 10, p.fix!.length > 5]).toEqual([true, true])
      }
    }
  })
})

describe('channels', () => {
  it('follow the route: all, none, or as typed with silence', () => {
    expect([routeOf('all', 3), routeOf('none', 3), routeOf([2, 0, 1], 3)]).toEqual([[0, 1, 2], [], [1, -1, 0]])
    expect(sourceChannels(media({}, [{ channels: 2 }, { channels: 1 }, { channels: 6 }]))).toBe(9)
    expect([1, 2, 6, 4, 16].map(layoutOf)).toEqual(['C', 'L R', 'L R C LFE Ls Rs', null, null])
  })
})

describe('H.264 levels (table A-1)', () => {
  it.each([
    [16, 12, 25, 188, 11],
    [320, 180, 25, 1000, 20],
    [426, 240, 25, 1000, 21],
    [640, 360, 25, 6000, 30],
    [720, 576, 25, 6000, 30],
    [720, 576, 25, 13_000, 31],
    [1280, 720, 30, 6000, 31],
    [1280, 720, 25, 40_000, 41],
    [1280, 720, 60, 6000, 32],
    [1920, 1080, 25, 25_000, 40],
    [1920, 1080, 25, 25_001, 41],
    [1920, 1080, 60, 6000, 42],
    [3840, 2160, 30, 6000, 51],
    [3840, 2160, 60, 6000, 52],
    [7680, 4320, 60, 6000, 62],
  ])('%dx%d at %d, %d kbit/s', (w, h, fps, kilobits, level) =>
    expect(avcLevel(w, h, makeRate(fps), kilobits * 1000)).toBe(level),
  )
})

const steppedBy = (settings: Recipe, output: Output) => ({
  ...{ settings, output, range: { in: 100, out: 350 }, rate: makeRate(25), reading: { pictures: [], sound: [] } },
})

describe('masters of MPEG-2', () => {
  const of = (r: Recipe, v: Partial<VideoInfo> = {}, a: readonly Partial<AudioInfo>[] = [{}]) =>
    describeOutput(r, media(v, a), at(), { in: 0, out: 50 }, { ...able, encodes: [...able.encodes, 'mpeg2'] })
  it('of high definition have the bit rate that is asked for, and a track for each channel', () => {
    const o = of(recipe('mpeg2'))
    expect(o).toMatchObject({ container: 'mxf', structure: { pattern: 'OP1a', wrapping: 'frame' }, problems: [] })
    expect(o.video).toMatchObject({ codec: 'mpeg2', chroma: '4:2:2', bitDepth: 8, width: 1920, scan: 'interlaced-tff' })
    expect(o.audio).toMatchObject({ codec: 'pcm', channels: 4, tracks: 4, bitDepth: 24 })
    // 50 frames of 500 000 bytes, and four channels of three bytes
    expect(o.bytes).toBeGreaterThan(50 * 500_000 + 96_000 * 12)
    expect(o.bytes).toBeLessThan(1.05 * (50 * 500_000 + 96_000 * 12))
    const said = (r: Recipe, v: Partial<VideoInfo> = {}) => of(r, v).problems.map((p) => p.code)
    expect(said(recipe('mpeg2', { pictureBitrate: 40_000 }))).toEqual(['mpeg2.rate'])
    expect(said(recipe('mpeg2', { width: 720, height: 576 }))).toEqual(['mpeg2.form'])
    expect(said(recipe('mpeg2', { width: 1280, height: 720 }))).toEqual(['mpeg2.form'])
    expect(said(recipe('mpeg2'), { scan: 'interlaced' })).toEqual(['recipe.field-order'])
  })
  it('of D-10 are shown as wide as the source, or as near as they can, their sound in one track', () => {
    const wide = of(recipe('d10'))
    expect(wide.problems).toEqual([])
    expect(wide.video).toMatchObject({ width: 720, height: 576, pixelAspect: '64:45', colour: { primaries: 5 } })
    expect(wide.audio).toMatchObject({ channels: 4, tracks: 1, sampleRate: 48_000 })
    const narrow = of(recipe('d10'), { width: 720, height: 576, pixelAspect: '12:11' })
    expect(narrow.video!.pixelAspect).toBe('16:15')
    expect(of(recipe('d10'), {}, [{ channels: 10 }]).problems.map((p) => p.message)).toEqual([
      'D-10 has up to eight sound channels, not 10.',
    ])
    expect(of(recipe('d10', { pictureBitrate: 45_000 })).problems.map((p) => p.fix)).toEqual([
      'Choose 30 000, 40 000 or 50 000 kbit/s.',
    ])
    expect(of(recipe('d10'), { scan: 'interlaced-bff' }).problems.map((p) => p.code)).toEqual(['mpeg2.form'])
  })
  it('have the field first that is asked for, where there are fields and their order is said', () => {
    const upper = recipe('d10', { scan: 'interlaced-tff' })
    const turned = of(upper, { scan: 'interlaced-bff' })
    expect([turned.problems, turned.video!.scan]).toEqual([[], 'interlaced-tff'])
    expect(turned.notes!.join()).toContain('The other field comes first: its lines lie one higher')
    expect(of(upper, { scan: 'interlaced-tff' }).notes ?? []).toEqual([])
    const codes = (scan: VideoInfo['scan']) => of(upper, { scan }).problems.map((p) => p.code)
    expect(codes('progressive')).toEqual(['recipe.no-fields'])
    expect(codes('segmented')).toEqual(['recipe.no-fields'])
    expect(codes('interlaced')).toEqual(['recipe.field-order'])
  })
  it('say when the source has more bits than they', () => {
    expect(of(recipe('mpeg2'), { bitDepth: 10, webCodec: null }).notes).toEqual([
      'Its pictures have 8 bits; those of the source have 10.',
    ])
    expect(of(recipe('mpeg2')).notes).toBeUndefined()
  })
})

describe('colour', () => {
  const bt2020 = { primaries: 9, transfer: 14, matrix: 9, fullRange: false }
  const colourOf = (r: Recipe, source = media()) =>
    describeOutput(r, source, at(), { in: 100, out: 350 }, able).video?.colour
  it('is the source’s until another is chosen', () => {
    expect(colourOf(recipe('master'))).toEqual(bt709)
    expect(colourOf(recipe('master'), media({ colour: bt2020 }))).toEqual(bt2020)
    expect(colourOf(recipe('master', { colour: 'bt709' }), media({ colour: bt2020 }))).toEqual(bt709)
  })
  it('that cannot be shown any more is said, and high dynamic range is not converted', () => {
    const notes = (source: MediaInfo) =>
      describeOutput(recipe('master', { colour: 'bt709' }), source, at(), { in: 0, out: 9 }, able).notes ?? []
    expect(notes(media({ colour: bt2020 })).join()).toContain('Colours that BT.709 cannot show are cut off.')
    expect(notes(media())).toEqual([])
    const hlg = media({ colour: { ...bt2020, transfer: 18 }, webCodec: null })
    expect(codes(recipe('master', { colour: 'bt709' }), hlg)).toEqual(['recipe.colour'])
    expect(codes(recipe('master'), hlg)).toEqual([])
    expect(codes(recipe('sequence'), hlg)).toEqual(['recipe.transfer'])
    // primaries, transfers and matrices that are not known here are never taken for others
    for (const other of [{ primaries: 12 }, { transfer: 8 }, { matrix: 7 }]) {
      const odd = media({ colour: { ...bt709, ...other } })
      expect(codes(recipe('master', { colour: 'bt2020' }), odd)).toEqual(['recipe.colour'])
      expect(codes(recipe('master'), odd)).toEqual([])
    }
    expect(codes(recipe('sequence'), media({ colour: { ...bt709, matrix: 8 } }))).toEqual(['recipe.transfer'])
    expect(codes(recipe('sequence'), media({ colour: { ...bt709, primaries: 12 } }))).toEqual([])
  })
  it('of line-up is one that bars are of', () => {
    const wide = media({ colour: bt2020, scan: 'progressive' })
    const own = { ...able, encodes: ['h264-intra'] }
    expect(codes(recipe('broadcast', { lineUp: -18 }), wide, own)).toEqual(['recipe.line-up-colour'])
    expect(codes(recipe('broadcast', { lineUp: -18, colour: 'bt709' }), wide, own)).toEqual([])
    expect(codes(recipe('broadcast', { lineUp: -18, colour: 'bt601-625' }), wide, own)).toEqual([])
  })
})

describe('stills', () => {
  const seen = (more: Partial<Recipe> = {}) =>
    describeOutput(recipe('sequence', more), media({ scan: 'progressive' }), at(), { in: 100, out: 350 }, able)
  const nameOf = (more: Partial<Recipe> = {}) => fileNameOf(recipe('sequence', more), 'a/03_Fog', seen(more))
  it('are numbered by their timecode, or from a number on', () => {
    expect(nameOf()).toBe('a/03_Fog/03_Fog.[0900100-0900349].dpx')
    const more = { firstNumber: 1, digits: 4, separator: '_' as const, stillFormat: 'exr-none' }
    expect(nameOf(more)).toBe('a/03_Fog/03_Fog_[0001-0250].exr')
    expect(seen({ digits: 5 }).problems.map((p) => p.code)).toEqual(['recipe.digits'])
    expect(seen({ digits: 3, firstNumber: 750 }).problems.map((p) => p.code)).toEqual([])
    expect(seen({ digits: 3, firstNumber: 751 }).problems.map((p) => p.code)).toEqual(['recipe.digits'])
  })
  it('say what the format has', () => {
    expect(seen().video).toMatchObject({ codec: 'dpx', bitDepth: 10, chroma: '4:4:4', colour: bt709 })
    expect(seen({ stillFormat: 'png-16' }).video).toMatchObject({ codec: 'png', bitDepth: 16, colour: null })
    expect(seen({ stillFormat: 'png-16' }).notes?.join()).toContain(
      'cannot say how many there are to a second, their timecode or their colour',
    )
    expect(seen().bytes).toBe(250 * (2048 + 1920 * 1080 * 4))
  })
  it.each([
    ['first', 100],
    ['middle', 225],
    ['last', 349],
  ] as const)('of one frame are of the %s', (stillAt, frame) => {
    const r = recipe('still', { stillAt })
    const output = describeOutput(r, media(), at(), { in: 100, out: 350 }, able)
    expect(output).toMatchObject({ frames: 1, sections: [{ kind: 'timeline', from: frame - 100, frames: 1 }] })
    expect(output.start.frames).toBe(900_000 + frame)
    expect(fileNameOf(r, 'a/Fog', output)).toBe('a/Fog.png')
    expect(
      recipeKind(r)
        .steps({ ...steppedBy(r, output) })
        .map((x) => x.range),
    ).toEqual([{ in: frame, out: frame + 1 }])
  })
  it('counts a start that is set from the region’s first frame', () => {
    const r = recipe('still', { stillAt: 'last', start: '01:00:00:00' })
    expect(describeOutput(r, media(), at(), { in: 100, out: 350 }, able).start.label).toBe('01:00:09:24')
  })
})

describe('recipes', () => {
  it('that ship are valid, and each setting they have has a name and words', () => {
    for (const r of shippedRecipes()) {
      expect(recipeSchema.parse(r)).toEqual(r)
      for (const s of recipeKind(r).settings)
        expect([settings[s].label.length > 0, settingText(s, r[s]).length > 0]).toEqual([true, true])
    }
  })
  it.each([
    { width: 15 },
    { width: 641 },
    { gain: -61 },
    { channels: [] },
    { channels: [65] },
    { start: 'noon' },
    { soundDepth: 20 },
    { pictureBitrate: 1.5 },
  ])('%j is no override', (o) => expect(overridesSchema.safeParse(o).success).toBe(false))
  it('take overrides of what they have, and no other (property)', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...shippedRecipes()),
        fc.record(
          {
            gain: fc.integer({ min: -60, max: 30 }),
            burnName: fc.boolean(),
            width: fc.constantFrom(null, 640, 1920),
            soundDepth: fc.constantFrom(16, 24) as fc.Arbitrary<16 | 24>,
          },
          { requiredKeys: [] },
        ),
        (r, o) => {
          const made = withOverrides(r, o)
          for (const k of ['gain', 'burnName', 'width', 'soundDepth'] as const)
            expect(made[k]).toBe(o[k] !== undefined && recipeKind(r).settings.includes(k) ? o[k] : r[k])
          expect([made.id, made.kind]).toEqual([r.id, r.kind])
        },
      ),
    )
  })
  it('of a kind that is not known are refused, and never taken for another', () => {
    expect(recipeSchema.safeParse({ ...shippedRecipes()[0]!, kind: 'hologram' }).success).toBe(false)
    expect(() => recipeKind({ kind: 'hologram' })).toThrow('“hologram” are not known')
    expect(recipeKinds.map((k) => k.kind)).toEqual([
      'rewrap',
      'broadcast',
      'broadcast-50',
      'mpeg2',
      'd10',
      'master',
      'viewing',
      'sound',
      'sequence',
      'still',
      'copied-stills',
    ])
  })
})

it('reads the pictures of a proof as they are said or typed, and leaves what makes no sense to the schema', () => {
  const { schema } = settings.proofSpread
  for (const v of [0, 1, 10] as const) {
    expect(settingValue('proofSpread', settingText('proofSpread', v))).toBe(v)
    expect(settingValue('proofSpread', String(v))).toBe(v)
  }
  for (const text of ['', 'banana', '2', 'one'])
    expect([text, schema.safeParse(settingValue('proofSpread', text)).success]).toEqual([text, false])
})

describe('lines of the blanking', () => {
  const said = { label: 'ancillary data', carries: [] } as const
  const film = (more: Partial<VideoInfo> = {}, container = 'mxf') =>
    media({ scan: 'segmented', ...more }, [{}], { container, data: [{ kind: 'ancillary', ...said }] })
  const given = (r: Recipe, source: MediaInfo) =>
    describeOutput(r, source, at(), { in: 0, out: 100 }, { ...able, decodes: [...able.decodes, 'mpeg2'] })

  it.each<[string, Recipe, MediaInfo, boolean]>([
    ['are taken over where rate, lines and scan stay', recipe('broadcast'), film(), true],
    ['into MPEG-2 as well', recipe('mpeg2'), film(), true],
    ['are not where a progressive film becomes segmented', recipe('broadcast'), film({ scan: 'progressive' }), false],
    ['are where it stays progressive', recipe('mpeg2', { scan: 'source' }), film({ scan: 'progressive' }), true],
    ['are not into other lines', recipe('mpeg2', { width: 1280, height: 720 }), film(), false],
    ['are not at another rate', recipe('broadcast'), film({ rate: makeRate(24) }), false],
    ['are not out of a list', recipe('broadcast'), film({}, 'mov'), false],
    ['have no room in D-10', recipe('d10'), film({ height: 576, width: 720 }), false],
    ['are not in an uncompressed MOV', recipe('master'), film(), false],
  ])('%s', (_, r, source, kept) => {
    const made = given(r, source)
    expect(made.data).toEqual(kept ? ['ancillary'] : undefined)
    const { data: _data, ...without } = source
    expect(made.bytes - given(r, without).bytes).toBe(kept ? 100 * (6 << 10) : 0)
  })
})
