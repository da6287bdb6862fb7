import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { noise } from '../kernel/noise'
import { emptyPicture } from '../picture/picture'
import { fieldMeter, momentsText, unlikeLabel, type FieldFacts, type FirstField } from './fields'
import { tracer, type Trace } from './trace'

const [width, height] = [256, 144]

/** Luma at a place and a time, in frames. */
type Scene = (x: number, y: number, t: number) => number

/** Blocks, a fine grid and slanted edges, at an offset. */
const drawing = (x: number, y: number) =>
  90 +
  ((Math.floor(x / 19) * 37 + Math.floor(y / 13) * 61) % 110) +
  ((x + y / 2) % 61 < 4 ? 40 : 0) +
  (Math.floor(y) % 24 === 0 ? -50 : 0)

const pan =
  (dx: number, dy: number): Scene =>
  (x, y, t) =>
    drawing(x + 500 + dx * t, y + 500 + dy * t)

/** The same where edges are as soft as those that a camera sees. */
const soft =
  (scene: Scene): Scene =>
  (x, y, t) => {
    let sum = 0
    for (let i = 0; i < 4; i++) sum += scene(x + (i & 1) / 2, y + (i >> 1) / 2, t)
    return sum / 4
  }

/** When the lines of a picture were taken, from its first field on. */
const scans = {
  one: () => 0,
  top: (y: number) => (y % 2) / 2,
  bottom: (y: number) => ((y + 1) % 2) / 2,
} as const

function seen(scene: Scene, moment: (y: number, n: number) => number, frames = 30, grain = 0): FieldFacts {
  const { take } = tracer()
  const meter = fieldMeter(25)
  const specks = noise(new Uint8Array(width * height + frames * 997), 255, 7)
  for (let n = 0; n < frames; n++) {
    const p = emptyPicture(width, height, '4:2:0', 8)
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const v = scene(x, y, n + moment(y, n)) + (grain * (specks[y * width + x + n * 997]! - 128)) / 128
        p.planes[0][y * width + x] = Math.max(16, Math.min(235, v))
      }
    meter.feed(take(p))
  }
  return meter.result()
}

const whole = (first: FirstField) => ({ two: [{ in: 1, out: 30, first }], one: false })

describe('fields, by what moves', () => {
  it.each([
    [2, 0],
    [-5, 0],
    [11, 3],
  ])('are told in pictures that move by %d, %d a frame, with grain as well', (dx, dy) => {
    for (const grain of [0, 10]) {
      expect(seen(soft(pan(dx, dy)), scans.one, 30, grain)).toEqual({ two: [], one: true })
      expect(seen(soft(pan(dx, dy)), scans.top, 30, grain)).toEqual(whole('top'))
      expect(seen(soft(pan(dx, dy)), scans.bottom, 30, grain)).toEqual(whole('bottom'))
    }
  })
  it('are told of what moves by less than a sample a frame', () => {
    const blocks: Scene = (x, y, t) => 90 + ((Math.floor((x + 0.8 * t) / 19) * 37 + Math.floor(y / 13) * 61) % 110)
    expect(seen(soft(blocks), scans.one)).toEqual({ two: [], one: true })
    expect(seen(soft(blocks), scans.top).two.map((r) => r.first)).toEqual(['top'])
    expect(seen(soft(blocks), scans.bottom).two.map((r) => r.first)).toEqual(['bottom'])
  })
  it('are told where a part of the picture moves', () => {
    const part: Scene = (x, y, t) => (x > 90 && x < 160 && y > 40 && y < 90 ? pan(4, 0)(x, y, t) : drawing(x, y))
    expect(seen(part, scans.one)).toEqual({ two: [], one: true })
    expect(seen(part, scans.bottom).two.map((r) => r.first)).toEqual(['bottom'])
  })
  it('are not told by cuts, which make any picture look as if it were of one moment', () => {
    const cuts: Scene = (x, y, t) => drawing(x + 977 * Math.floor(Math.floor(t) / 2), y)
    expect(seen(cuts, scans.top)).toEqual({ two: [], one: false })
  })
  it('are told of film at 24 frames a second in 29.97 with every other picture over three fields', () => {
    // of five pictures the third and the fourth have their fields of two
    const film = (y: number, n: number) => {
      const field = 2 * n + (y % 2)
      const [of, into] = [Math.floor(field / 5), field % 5]
      return of * 2 + (into < 2 ? 0 : 1) - n
    }
    const { two } = seen(pan(3, 0), film)
    expect(two.map((r) => r.first)).toEqual(['top'])
  })
  it('are told of pictures whose fields are of one film frame and the next', () => {
    expect(seen(pan(3, 0), (y) => (y + 1) % 2)).toEqual(whole('bottom'))
  })
})

describe('pictures of one moment are not taken for two', () => {
  const never = (scene: Scene, grain = 0) => expect(seen(scene, scans.one, 30, grain).two).toEqual([])
  it('when they roll, whatever lines there are in them', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -9, max: 9, noNaN: true }),
        fc.double({ min: -3, max: 3, noNaN: true }),
        (dy, dx) => {
          never(pan(dx, dy))
          never((x, y, t) => (Math.floor(y + dy * t) % 6 < 1 ? 220 : 40) + ((x + dx * t) % 20 < 4 ? 30 : 0))
        },
      ),
      { numRuns: 25 },
    )
  })
  it('when every other line is dark, still or moving', () => {
    const lined =
      (scene: Scene): Scene =>
      (x, y, t) =>
        scene(x, y, t) * (y % 2 ? 0.4 : 1)
    never(lined(pan(0, 0)))
    never(lined(pan(4, 0)))
    never(lined(pan(3, 2)), 10)
  })
  it('when they flash, flicker and fade, cut by cut', () => {
    never((x, y, t) => drawing(x, y) * (t % 3 === 0 ? 1.4 : 0.7))
    never((x, y, t) => drawing(x, y) * Math.min(1, t / 20))
    never((x, y, t) => drawing(x + 977 * Math.floor(t / 2), y + 131 * Math.floor(t / 2)))
    never((x, y, t) => drawing(x, y) + (Math.floor(y / 40 + t * 0.7) % 2 ? 30 : 0))
  })
  it('when there is nothing but noise, or nothing moves', () => {
    never(() => 120, 100)
    expect(seen(pan(0, 0), scans.top)).toEqual({ two: [], one: false })
  })
})

it('of a few pictures makes no stretch, of what is apart several, and of orders that alternate none', () => {
  const told = (list: string) => {
    const meter = fieldMeter(5)
    for (const c of list) {
      const [topAfter, bottomAfter] = { '-': [0, 0], t: [9000, 27000], b: [27000, 9000] }[c]!
      const combed = { own: c === '-' ? 0 : 9000, topAfter: topAfter!, bottomAfter: bottomAfter! }
      meter.feed({ combed } as Trace)
    }
    return meter.result().two
  }
  const eight = 't-tt-t--tt-t---t'
  expect(told(`--${eight.slice(0, -1)}`)).toEqual([])
  expect(told(`--${eight}--`)).toEqual([{ in: 2, out: 18, first: 'top' }])
  const both = told(`${'t'.repeat(9)}-${'b'.repeat(8)}`)
  expect(both).toEqual([
    { in: 0, out: 9, first: 'top' },
    { in: 10, out: 18, first: 'bottom' },
  ])
  expect(momentsText(both)).toBe('of two moments, the top field first and the bottom field first')
  expect(told('tttbtttbtttb')).toEqual([{ in: 0, out: 11, first: 'top' }])
  expect(told('ttb'.repeat(9))).toEqual([])
})

it('are held against what the file says', () => {
  const of = (first: FirstField) => ({ two: [{ in: 0, out: 9, first }], one: false })
  const other = (first: FirstField) =>
    (['progressive', 'segmented', 'interlaced-tff', 'interlaced-bff', 'interlaced'] as const).filter(
      (scan) => unlikeLabel(of(first), scan).length > 0,
    )
  expect(other('top')).toEqual(['progressive', 'segmented', 'interlaced-bff'])
  expect(other('bottom')).toEqual(['progressive', 'segmented', 'interlaced-tff'])
})
