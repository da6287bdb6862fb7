import { describe, expect, it } from 'vitest'
import { writtenStructure, type FileStructure } from '../media/media'
import { makeRate } from '../time/rate'
import { describedMedia, describedOutput, unitsOf } from './described'
import { foundLineUp, madeLineUp } from './time/lineup'
import type { Evidence } from './measure'
import { measureOf } from './registry'

// What recipients ask of masters beyond codec and raster, each from what it is read of.

const rate = makeRate(25)
const base = { rate, dropFrame: false, start: 0 }
const read = (name: string, e: object) => measureOf(name).read(e as Evidence)
const mxf = (more: Partial<FileStructure>) => ({ described: { structure: { ...writtenStructure, ...more } } })
const sound = { truePeak: -6, shortTermMax: -20.04, momentaryMax: -17.2 }
const video = { ...{ width: 1920, height: 1080, pixelAspect: '1:1' }, rate, frames: 100 }

describe('how an MXF file is built', () => {
  it('is told as it is, and as none of files that have no such thing', () => {
    for (const [name, good, text] of [
      ['header-partition', 'closed-complete', 'closed and complete'],
      ['index-table', 'whole', 'of every frame'],
      ['random-index', true, 'at the end of the file'],
    ] as const) {
      expect([name, read(name, mxf({}))]).toEqual([name, { value: good, text }])
      expect([name, read(name, { described: { structure: null } })?.text]).toEqual([name, 'none'])
    }
    expect(read('header-partition', mxf({ header: 'open-complete' }))?.value).toBe('open-complete')
  })
  it('is not told where an earlier edition did not look', () => {
    const { pattern, wrapping } = writtenStructure
    for (const name of ['header-partition', 'index-table', 'random-index'])
      expect(read(name, { described: { structure: { pattern, wrapping } } })).toBe(null)
  })
})

it('the shape of a picture goes by its pixels', () => {
  const shape = (width: number, height: number, pixelAspect: string) =>
    read('display-aspect', { described: { video: { width, height, pixelAspect } } })?.value
  expect([shape(1920, 1080, '1:1'), shape(720, 576, '64:45'), shape(720, 576, '16:15')]).toEqual([
    '16:9',
    '16:9',
    '4:3',
  ])
  expect([shape(720, 576, '12:11'), shape(720, 576, '118:81'), shape(2048, 858, '1:1')]).toEqual([
    '4:3',
    '16:9',
    '2.39',
  ])
})

it('what is only usual of pictures was not measured', () => {
  const of = (name: string, untold?: readonly string[]) =>
    read(name, { described: { video: { ...video, scan: 'progressive', chroma: '4:2:0', bitDepth: 8, untold } } })
  expect(of('scan', ['scan'])).toEqual({ value: null, text: 'not told by the file (progressive is usual)' })
  expect([of('chroma', ['chroma'])?.value, of('bit-depth', ['bitDepth'])?.value]).toEqual([null, null])
  expect([of('scan')?.value, of('chroma', ['scan'])?.value, of('bit-depth', [])?.value]).toEqual([
    ...['progressive', '4:2:0', 8],
  ])
})

it('what is only usual of sound was not measured', () => {
  const of = (name: string, untold?: readonly string[]) =>
    read(name, { described: { audio: { codec: 'pcm', bitDepth: 24, sampleRate: 48_000, untold } } })
  expect(of('sound-depth', ['bitDepth'])).toEqual({ value: null, text: 'not told by the file (24 bit is usual)' })
  expect(of('sample-rate', ['sampleRate'])?.value).toBeNull()
  expect([of('sound-depth', ['sampleRate'])?.value, of('sample-rate')?.value]).toEqual([24, 48_000])
})

it('sound has a depth where it comes out as it went in, and nobody knows of codecs not known here', () => {
  const of = (codec: string) => read('sound-depth', { described: { audio: { codec, bitDepth: 16 } } })
  expect([of('pcm')?.value, of('flac')?.value]).toEqual([16, 16])
  expect(of('aac')).toEqual({ value: 'none', text: 'none: AAC keeps no depth' })
  expect(of('ac-3')).toEqual({ value: null, text: 'ac-3 is not looked into here' })
})

describe('the pictures of a file', () => {
  const units = (sizes: readonly number[]) =>
    unitsOf({
      video: [{ sampleCount: sizes.length, sample: (i: number) => ({ size: sizes[i] }), info: { rate } }],
    } as never)
  it('have a rate of bits, and a size that is the same or not', () => {
    const same = units(Array<number>(50).fill(568_832))
    expect(read('picture-bit-rate', same)?.value).toBeCloseTo(113.7664, 6)
    expect(read('constant-size', same)).toEqual({ value: true, text: 'constant, 569 kB' })
    expect(read('constant-size', units([1000, 1000, 1001]))).toEqual({ value: false, text: '1000 to 1001 bytes' })
    expect(read('constant-size', unitsOf({ video: [] }))).toBe(null)
  })
  it('are not asked about of files without any, which would be refused when they are there', () => {
    for (const name of ['picture-bit-rate', 'constant-size', 'timecode-breaks']) expect(measureOf(name).ends).toBe(true)
  })
  it('stand alone, or do not, or nobody knows', () => {
    const of = (intra?: boolean) => read('intra', { described: { video: { ...video, intra } } })
    expect([of(true)?.value, of(false)?.value, of()]).toEqual([true, false, null])
  })
})

describe('pictures and sound', () => {
  const info = (samples: readonly number[], lead?: number) =>
    describedMedia(
      {
        ...{ container: 'mxf', indexAt: 'front', size: 1, durationFrames: 100, durationSeconds: 4, timecode: null },
        ...{ chapters: [], bext: null, problems: [], video: [video as never] },
        audio: samples.map((n) => ({ samples: n, sampleRate: 48000, channels: 1, ...(lead ? { lead } : {}) }) as never),
      },
      base,
    )
  const apart = (samples: readonly number[]) => read('track-lengths', { described: info(samples) })
  it('end together to the sample, or are so far apart', () => {
    expect(apart([192_000, 192_000])).toEqual({ value: 0, text: 'nothing' })
    expect(apart([192_000, 192_001])).toEqual({ value: 1 / 1920, text: 'less than 0.01 frames' })
    expect(apart([192_000, 182_400])).toEqual({ value: 5, text: '5.00 frames' })
    expect(apart([])).toBe(null)
  })
  it('are counted by the rate of the pictures, whatever their timecode counts', () => {
    const half = { ...base, rate: makeRate(25) }
    const audio = [{ samples: 192_000, sampleRate: 48000, channels: 1 }]
    const fast = { ...video, rate: makeRate(50), frames: 200 }
    const described = describedMedia(
      { ...{ video: [fast], audio, timecode: null, durationFrames: 200 } } as never,
      half,
    )
    expect(read('track-lengths', { described })?.value).toBe(0)
  })
  it('begin together, or the sound later', () => {
    const late = (lead?: number) => read('late-sound', { described: info([192_000], lead) })
    expect([late(), late(4800)]).toEqual([
      { value: 0, text: 'nothing' },
      { value: 0.1, text: '0.100 s' },
    ])
  })
  it('are made alike', () => {
    const output = {
      frames: 100,
      samples: 192_000,
      audio: { sampleRate: 48000 },
      video,
      start: { frames: 0 },
      bytes: 5e9,
    }
    const described = describedOutput(output as never, base)
    expect(['track-lengths', 'late-sound', 'file-size'].map((m) => read(m, { described })?.value)).toEqual([0, 0, 5])
    // how long a file of coded pictures will be depends on them
    expect(read('file-size', { described })).toMatchObject({ text: 'about 5.0 GB', aside: 'rough' })
    const near = describedOutput({ ...output, bytesOff: 2e6 } as never, base)
    expect(read('file-size', { described: near })).toMatchObject({ aside: 'rough', give: { by: 0.002 } })
    const exact = describedOutput({ ...output, bytesOff: 0 } as never, base)
    expect(read('file-size', { described: exact })).toEqual({ value: 5, text: '5.0 GB' })
    expect(read('timecode-rate', { described })).toEqual({ value: '25/1', text: '25' })
    // an MXF file's essence is in one partition where none is told
    const partitions = (structure: object | null) => {
      const d = describedOutput({ ...output, structure } as never, base)
      return ['body-partitions', 'body-partition-length'].map((m) => read(m, { described: d })?.value)
    }
    expect(partitions(writtenStructure)).toEqual([1, 4])
    const bodies = { count: 3, longest: 40, rate: base.rate }
    expect(partitions({ ...writtenStructure, bodies })).toEqual([3, 1.6])
    expect(partitions(null)).toEqual([0, null])
  })
})

describe('what is in front of a programme', () => {
  const lengths = (lineUp: unknown) =>
    ['line-up-length', 'clock-length', 'lead-black'].map((m) => read(m, { lineUp })?.value ?? null)
  it('lasts as long as it was made, or is not there', () => {
    const sections = [
      { kind: 'bars', frames: 500, level: -18 },
      { kind: 'clock', frames: 175 },
      { kind: 'black', frames: 75 },
      { kind: 'timeline' as const, from: 0, frames: 100 },
    ]
    expect(lengths(madeLineUp({ sections, frames: 850 }, base, [-18]))).toEqual([20, 7, 3])
    expect(lengths(madeLineUp({ frames: 100 }, base, []))).toEqual([0, 0, 0])
  })
  it('lasts as long as it was found, and what an earlier edition did not keep is not told', () => {
    const found = { lineUp: { in: 0, out: 250 }, clock: null, programme: 300, by: ['tone'] as const }
    const black = { in: 255, out: 300 }
    expect(lengths(foundLineUp({ ...found, black }, 900, base, [-18]))).toEqual([10, 0, 45 / 25])
    expect(lengths(foundLineUp(found, 900, base, [-18]))).toEqual([10, 0, null])
    expect(lengths(foundLineUp(null, 900, base, []))).toEqual([0, 0, 0])
  })
})

describe('sound', () => {
  it('has its tone in each channel, in left and right if it has any', () => {
    const of = (tones: readonly (number | null)[] | null, layout?: string) =>
      read('tone-level', { lineUp: { tones }, layout })
    expect(of([-18])).toEqual({ value: [-18], text: '−18.0 dBFS' })
    expect(of([-18, -18, -18.01, -18])).toEqual({ value: [-18, -18, -18.01, -18], text: '−18.0 dBFS' })
    expect(of([-18, -24])?.text).toBe('−18.0 dBFS in channel 1 and −24.0 dBFS in channel 2')
    expect(of([-18, null])).toEqual({ value: [-18, -Infinity], text: '−18.0 dBFS in channel 1 and none in channel 2' })
    expect(of([-18, -18, null, -90])).toEqual({ value: [-18, -18], text: '−18.0 dBFS in channels 1 and 2' })
    expect(of([-18, null, -18], 'L C R')?.value).toEqual([-18, -18])
    expect(of(null)).toEqual({ value: null, text: 'not all channels of its sound are read' })
    expect([of([]), of([null, -80])].map((r) => r?.value)).toEqual([null, null])
  })
  it('has its loudest stretches, with the gain it gets', () => {
    expect(read('short-term-loudness', { sound, gain: -1 })).toEqual({ value: -21.04, text: '−21.0 LUFS' })
    expect(read('momentary-loudness', { sound })?.value).toBe(-17.2)
    const silent = { ...sound, truePeak: null, shortTermMax: null }
    expect(read('short-term-loudness', { sound: silent })).toEqual({ value: -Infinity, text: 'silence' })
    expect(read('short-term-loudness', { sound: { ...sound, shortTermMax: null } })?.value).toBe(null)
  })
  const pair = (first: number, correlation: number | null, alike = false) => ({
    ...{ channels: [first, first + 1], correlation, alike },
  })
  it('of two channels is the same or is not, and nothing is said of one', () => {
    const of = (...pairs: object[]) => read('dual-mono', { sound: { ...sound, pairs } })
    expect([of(pair(0, 1, true))?.value, of(pair(0, 1))?.value]).toEqual([true, false])
    expect(of(pair(0, null, true))?.value).toBe(null)
    expect(of(pair(0, 0.4), pair(2, 1, true))).toEqual({ value: true, text: 'the same in channels 3 and 4' })
  })
  it('of several pairs is as far out of phase as the worst of them', () => {
    const of = (...pairs: object[]) => read('phase', { sound: { ...sound, pairs } })
    expect(of(pair(0, 0.4), pair(2, -0.98), pair(4, null))).toEqual({ value: -0.98, text: '−0.98 in channels 3 and 4' })
    expect(of(pair(0, 0.4), pair(2, 0.9))?.text).toBe('0.40 in channels 1 and 2')
    expect(of(pair(0, 0.4))?.text).toBe('0.40')
    expect(of(pair(0, null), pair(2, null))?.value).toBe(null)
  })
  it('says which channels its loudness is of, where there are others', () => {
    const of = (more: object) => read('loudness', { sound: { ...sound, integrated: -23, ...more } })?.text
    expect([of({}), of({ programme: [2, 3] })]).toEqual(['−23.0 LUFS', '−23.0 LUFS in channels 3 and 4'])
  })
  it('has a loudness of each mix beside the programme, unless nobody knows what mixes there are', () => {
    const mix = (first: number, integrated: number | null, momentaryMax: number | null = integrated) => ({
      ...{ channels: [first, first + 1], integrated, momentaryMax },
    })
    const peaks = [-9, -9, -9, -9, -70, null, -80]
    const of = (others: object[], more: object = {}) =>
      read('mixes-loudness', { gain: 1, sound: { truePeak: -6, peaks, others, untold: [], ...more } })
    const both = '−23.2 LUFS in channels 3 and 4 and under −70 LUFS in channels 5 and 6'
    expect(of([mix(2, -24.2), mix(4, null, -81)])).toEqual({ value: [-23.2, -Infinity], text: both })
    expect(of([])).toEqual({ value: [], text: 'there are none' })
    expect(of([mix(2, null)])).toEqual({ value: null, text: 'it is shorter than the 0.4 s loudness is measured over' })
    expect(of([{ ...mix(5, null), channels: [5] }])).toEqual({ value: [-Infinity], text: 'silence in channel 6' })
    expect(of([], { untold: [3] })).toEqual({ value: null, text: 'nothing says which mix channel 4 is of' })
    // what is silent is of no mix
    expect(of([], { untold: [6] })?.value).toEqual([])
    const coded = { channels: [1, 5], counted: true }
    expect(of([mix(2, -24.2)], { programme: [0, 1], coded })).toEqual({
      ...{ value: null, text: 'channel 6 carries data, not sound (SMPTE ST 337)' },
    })
  })
  it('of a programme that is silent beside others is silence, not too short', () => {
    const empty = { ...sound, integrated: null, momentaryMax: null, shortTermMax: null, peaks: [null, null, -9, -9] }
    const of = (more: object) => read('loudness', { sound: { ...empty, ...more } })
    expect(of({ programme: [0, 1] })).toEqual({ value: -Infinity, text: 'silence' })
    expect(of({ programme: [2, 3] })?.value).toBeNull()
  })
})

it('timecodes of a file break or do not, each where it stands', () => {
  const facts = { frames: 100, breaks: 0, at: null, other: null }
  const of = (...timecodes: object[]) => read('timecode-breaks', { file: { ...base, start: 900_000 }, timecodes })
  const track = { ...facts, frames: 1, where: 'in the timecode track' }
  expect(of(track)).toEqual({ value: 0, text: 'none in the timecode track' })
  expect(of(track, { ...facts, where: 'in system items', breaks: 2, at: 30, other: '00:00:00:00' })).toEqual({
    value: 2,
    text: 'none in the timecode track; 2 breaks in system items, first at 10:00:01:05, and begins at 00:00:00:00',
  })
  expect(of()).toEqual({ value: null, text: 'there is no timecode that can be followed' })
})
