import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { shareOther } from '../picture/difference'
import { makeRate } from '../time/rate'
import { sampleAtFrame } from '../time/samples'
import { luma709, lumaWeights } from '../media/colour'
import { barCodes } from './bars'
import {
  frameInFile,
  frameOfProgramme,
  isMade,
  leadOf,
  LineUpPictures,
  lineUpSections,
  madeWords,
  placed,
  programmeFrames,
  SampleClock,
  sectionAt,
} from './lineup'
import type { LineUpShape, Section } from './section'
import { toneSamples } from './tone'

const rates = [makeRate(25), makeRate(30000, 1001), makeRate(24000, 1001), makeRate(60000, 1001)]
const programme = (frames: number, from = 0): Section => ({ kind: 'timeline', from, frames })
const shapeOf = (width: number, height: number): LineUpShape => ({
  ...{ width, height, chroma: '4:2:2', bitDepth: 10, pixelAspect: 1, weights: luma709 },
})
const file = (sections: Section[]) => ({ sections, frames: sections.reduce((n, s) => n + s.frames, 0) })

describe('sections of a file', () => {
  it('are half a minute of line-up, then the programme', () => {
    const f = file([...lineUpSections(-18, makeRate(25)), programme(40)])
    expect(placed(f).map((s) => [s.kind, s.at, s.frames])).toEqual([
      ['bars', 0, 500],
      ['clock', 500, 175],
      ['black', 675, 75],
      ['timeline', 750, 40],
    ])
    expect([leadOf(f), programmeFrames(f)]).toEqual([750, 40])
    expect(madeWords(placed(f).filter(isMade), makeRate(25))).toEqual(['20 s bars and tone', '7 s clock', '3 s black'])
    expect([499, 500, 749, 750].map((n) => sectionAt(placed(f), n).kind)).toEqual([
      'bars',
      'clock',
      'black',
      'timeline',
    ])
  })

  it('are the region alone where nothing is said', () => {
    expect(placed({ frames: 9 })).toEqual([{ kind: 'timeline', from: 0, frames: 9, at: 0 }])
    expect([leadOf({ frames: 9 }), frameInFile({ frames: 9 }, 8), frameInFile({ frames: 9 }, 9)]).toEqual([0, 8, null])
  })

  it('say where each frame of the region stands, parts and breaks as well', () => {
    const f = file([{ kind: 'black', frames: 5 }, programme(10), { kind: 'black', frames: 3 }, programme(4, 10)])
    expect([0, 9, 10, 13, 14].map((n) => frameInFile(f, n))).toEqual([5, 14, 18, 21, null])
    expect([0, 9, 10, 13].map((n) => frameOfProgramme(f, n))).toEqual([5, 14, 18, 21])
  })
})

describe('samples of a file', () => {
  it('are all of one section each, in order, and those of the timeline are its own', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...rates),
        fc.constantFrom(44100, 48000, 96000),
        fc.nat(5000),
        fc.array(fc.record({ made: fc.boolean(), frames: fc.integer({ min: 1, max: 90 }) }), { maxLength: 5 }),
        fc.nat(40_000),
        fc.integer({ min: 1, max: 60_000 }),
        (rate, sampleRate, first, list, from, count) => {
          let at = 0
          const sections = [...list, { made: false, frames: 7 }].map(({ made, frames }): Section => {
            if (made) return { kind: 'black', frames }
            at += frames
            return programme(frames, at - frames)
          })
          const f = file(sections)
          const region = { in: first, out: first + at }
          const clock = new SampleClock(f, region, rate, sampleRate)
          const total = clock.before(f.frames)
          const parts = clock.parts(from, count)
          expect(parts.reduce((n, p) => n + p.count, 0)).toBe(Math.max(0, Math.min(count, total - from)))
          let sample = from
          for (const { section, from: own, count: n } of parts) {
            const into = sample - clock.before(section.at)
            expect(into).toBeGreaterThanOrEqual(0)
            const origin = 'from' in section ? sampleAtFrame(first + section.from, rate, sampleRate) : 0
            expect(own).toBe(origin + into)
            sample += n
          }
        },
      ),
    )
  })

  it('keep the cadence of the timeline, whatever stands in front of it', () => {
    const rate = makeRate(30000, 1001)
    const f = file([...lineUpSections(-20, rate), programme(10)])
    const clock = new SampleClock(f, { in: 3, out: 13 }, rate, 48000)
    const own = Array.from(
      { length: 10 },
      (_, n) => sampleAtFrame(4 + n, rate, 48000) - sampleAtFrame(3 + n, rate, 48000),
    )
    expect(own.map((_, n) => clock.before(901 + n) - clock.before(900 + n))).toEqual(own)
  })
})

describe('what is made', () => {
  it('is drawn once for as long as it stays: bars for all of theirs, the clock for each second', () => {
    const rate = makeRate(25)
    const f = file([...lineUpSections(-18, rate), programme(40)])
    const told = { show: 'Almanac', title: 'Fog Bell', lines: [] }
    const pictures = new LineUpPictures(f, rate, shapeOf(320, 180), told)
    const all = Array.from({ length: 750 }, (_, n) => pictures.at(n))
    const changes = all.flatMap((p, n) => (n === 0 || p !== all[n - 1] ? [n] : []))
    expect(changes).toEqual([0, 500, 525, 550, 575, 600, 625, 650, 675])
  })

  it('is told apart from second to second by the share of it that is another', () => {
    const rate = makeRate(25)
    const f = file([...lineUpSections(-18, rate), programme(40)])
    const told = { show: 'Almanac', title: 'Fog Bell', lines: [] }
    const pictures = new LineUpPictures(f, rate, shapeOf(1920, 1080), told)
    const seconds = Array.from({ length: 7 }, (_, k) => pictures.at(500 + 25 * k))
    for (const [k, p] of seconds.entries()) {
      const noisy = { ...p, planes: [p.planes[0].map((v, i) => v + (i % 61)), p.planes[1], p.planes[2]] as const }
      expect(shareOther(p, noisy, 16)).toBe(0)
      if (k > 0) expect(shareOther(p, seconds[k - 1]!, 16)).toBeGreaterThan(1 / 1000)
    }
    expect(shareOther(seconds[0]!, { ...seconds[0]!, bitDepth: 8 }, 16)).toBe(1)
  })

  it('has the codes of ITU-R BT.709 at 8 and 10 bit', () => {
    expect(barCodes([1, 1, 1], 8, luma709)).toEqual([235, 128, 128])
    expect(barCodes([0, 0, 0], 10, luma709)).toEqual([64, 512, 512])
    expect(barCodes([1, 0, 0], 10, luma709)[2]).toBe(960)
  })

  it('has the codes of ITU-R BT.601 in its files: bars of 75 %, as ITU-R BT.801 lists them at 8 bit', () => {
    const codes = [
      [0.75, 0.75, 0.75],
      [0.75, 0.75, 0],
      [0, 0.75, 0.75],
      [0, 0.75, 0],
      [0.75, 0, 0.75],
      [0.75, 0, 0],
      [0, 0, 0.75],
    ].map(([r, g, b]) => barCodes([r!, g!, b!], 8, lumaWeights(5)))
    expect(codes).toEqual([
      [180, 128, 128],
      [162, 44, 142],
      [131, 156, 44],
      [112, 72, 58],
      [84, 184, 198],
      [65, 100, 212],
      [35, 212, 114],
    ])
  })

  it('is as round where pixels are wider than high: the dial, shown', () => {
    const rate = makeRate(25)
    const f = file([...lineUpSections(-18, rate), programme(40)])
    const told = { show: '', title: '', lines: [] }
    const shape = { ...shapeOf(720, 576), pixelAspect: 64 / 45 }
    const { planes, width } = new LineUpPictures(f, rate, shape, told).at(500)
    // all that is lit is the dial, its hand and the count within it
    const lit = [...planes[0].keys()].filter((i) => planes[0][i]! > 300)
    const [xs, ys] = [lit.map((i) => i % width), lit.map((i) => Math.floor(i / width))]
    const span = (list: readonly number[]) =>
      list.reduce((m, v) => Math.max(m, v)) - list.reduce((m, v) => Math.min(m, v))
    expect((span(xs) * (64 / 45)) / span(ys)).toBeCloseTo(1, 1)
  })

  it('is a tone of 1 kHz whose peak is its level, joined without a step', () => {
    const tone = toneSamples(-20, 0, 48_000, 48_000)
    expect(Math.max(...tone.subarray(0, 48))).toBeCloseTo(0.1, 6)
    expect([...toneSamples(-20, 47_990, 20, 48_000)]).toEqual([...tone.subarray(47_990), ...tone.subarray(0, 10)])
  })
})
