import fc from 'fast-check'
import { bt709, lumaWeightsOf } from '../media/colour'
import type { Colour } from '../media/media'
import { describe, expect, it } from 'vitest'
import { blackPicture, type Picture } from '../picture/picture'
import { makeRate } from '../time/rate'
import { contentMeter } from './content'
import { levelMeter } from './levels'
import { partsMeter } from './pictures'
import { packTrace, traceOf, traceSize, unpackTrace } from './trace'

const rate = makeRate(25)
function frame(level: number, moving = 0): Picture {
  const p = blackPicture(256, 144, '4:2:0', 8)
  p.planes[0].fill(level)
  p.planes[0].fill(200, (moving % 100) * 256, ((moving % 100) + 20) * 256)
  return p
}
const black = () => blackPicture(256, 144, '4:2:0', 8)
function measure(pictures: readonly Picture[], colour: Colour = bt709) {
  const m = contentMeter({ rate, width: 256, height: 144, colour, shortestFreeze: 25 })
  for (const p of pictures) m.feed(traceOf(p))
  return m.result()
}

describe('black, still and flashing stretches', () => {
  it('finds a hole of two frames', () => {
    const r = measure(Array.from({ length: 40 }, (_, i) => (i === 20 || i === 21 ? black() : frame(80, i * 3))))
    expect(r).toEqual({ black: [{ in: 20, out: 22 }], freeze: [], flashes: [] })
  })
  it('finds a freeze of a second, not one shorter', () => {
    expect(
      measure(Array.from({ length: 80 }, (_, i) => frame(80, i < 20 ? i * 3 : i < 46 ? 60 : i * 3))).freeze,
    ).toEqual([{ in: 20, out: 46 }])
    expect(
      measure(Array.from({ length: 80 }, (_, i) => frame(80, i < 20 ? i * 3 : i < 40 ? 60 : i * 3))).freeze,
    ).toEqual([])
  })
  it('calls nothing frozen that changes slowly, or in its colour alone', () => {
    // a fade of ten seconds from white, and one over black, of less than a step a frame
    const fade = (frames: number, from: number, to: number) =>
      Array.from({ length: frames }, (_, i) => {
        const p = black()
        p.planes[0].fill(Math.round(from + ((to - from) * i) / (frames - 1)))
        return p
      })
    expect(measure(fade(250, 235, 60)).freeze).toEqual([])
    const toBlack = [...fade(250, 235, 16), ...Array.from({ length: 50 }, black)]
    expect(measure(toBlack)).toMatchObject({ freeze: [], black: [{ out: 300 }] })
    const turning = Array.from({ length: 60 }, (_, i) => {
      const p = frame(80)
      p.planes[1].fill(100 + i, 0, 2000)
      return p
    })
    expect(measure(turning).freeze).toEqual([])
    expect(measure(turning.map(() => frame(80))).freeze).toEqual([{ in: 0, out: 60 }])
  })
  it('calls a freeze what coding changes a little, for as long as it lasts', () => {
    const coded = Array.from({ length: 100 }, (_, i) => {
      const p = frame(80)
      // three samples in four go up by a step for twelve pictures, and down again
      p.planes[0].forEach((v, k) => (p.planes[0][k] = v + (k % 4 && i % 24 < 12 ? 1 : 0)))
      return p
    })
    expect(measure(coded).freeze).toEqual([{ in: 0, out: 100 }])
  })
  it('tells one still picture from the next, and takes one that drifts for one', () => {
    expect(measure(Array.from({ length: 75 }, (_, i) => frame(80, Math.floor(i / 25) * 30))).freeze).toEqual([
      { in: 0, out: 25 },
      { in: 25, out: 50 },
      { in: 50, out: 75 },
    ])
    // half the samples up by a step, every thirty pictures
    const drifting = Array.from({ length: 240 }, (_, i) => {
      const p = frame(80)
      const steps = Math.floor(i / 30)
      p.planes[0].forEach((v, k) => (p.planes[0][k] = v + Math.floor((steps + (k % 2)) / 2)))
      return p
    })
    expect(measure(drifting).freeze).toEqual([{ in: 0, out: 240 }])
  })
  it('calls nothing black that has a colour, however dark', () => {
    const blue = () => {
      const p = black()
      p.planes[0].fill(24)
      p.planes[1].fill(184)
      p.planes[2].fill(123)
      return p
    }
    const tape = () => {
      const p = black()
      p.planes[1].fill(132)
      return p
    }
    const list = Array.from({ length: 60 }, (_, i) => (i < 20 ? frame(80, i) : i < 40 ? blue() : tape()))
    expect(measure(list)).toMatchObject({ black: [{ in: 40, out: 60 }] })
  })
  it('does not call black a freeze', () => {
    const r = measure(Array.from({ length: 60 }, () => black()))
    expect(r.black).toEqual([{ in: 0, out: 60 }])
    expect(r.freeze).toEqual([])
  })
  /** BT.1702: `hz` flashes a second for two seconds over a share of the screen, between two luma codes. */
  const flashing = (hz: number, share: number, dark: number, bright: number) =>
    Array.from({ length: 50 }, (_, i) => {
      const p = frame(dark, i)
      if (Math.floor((i * hz * 2) / 25) % 2) p.planes[0].fill(bright, 0, Math.round(144 * share) * 256)
      return p
    })
  it('finds more than three flashes a second over more than a quarter of the screen', () => {
    expect(measure(flashing(5, 0.5, 40, 220)).flashes).toHaveLength(1)
    expect(measure(flashing(2, 0.5, 40, 220)).flashes).toEqual([])
    expect(measure(flashing(5, 0.15, 40, 220)).flashes).toEqual([])
    expect(measure(flashing(5, 0.5, 40, 60)).flashes).toEqual([])
  })
  /** Five times a second over half of the screen, between the last two colours (8-bit codes), after a first one. */
  const between = (...colours: (readonly [number, number, number])[]) =>
    Array.from({ length: 50 }, (_, i) => {
      const p = frame(40)
      const last = colours.slice(-2)
      const own = i === 0 ? colours[0]! : last[Math.floor((i * 10) / 25) % 2]!
      p.planes.forEach((plane, k) => plane.fill(own[k]!, 0, plane.length / 2))
      return p
    })
  const grey = (v: number) => [v, 128, 128] as const
  const red = [63, 102, 240] as const
  it('goes by light, and not by luma: full red is 42 cd/m², full blue 14', () => {
    expect(measure(between(red, grey(16))).flashes).toHaveLength(1)
    expect(measure(between([32, 240, 118], grey(16))).flashes).toEqual([])
  })
  it('counts saturated red by itself: one and a grey of the same light', () => {
    expect(measure(between(red, grey(131))).flashes).toHaveLength(1)
    // a red that is none of such, and a grey of its light
    expect(measure(between([105, 115, 168], grey(113))).flashes).toEqual([])
  })
  it('counts from where the light turned, not from where it was counted last', () =>
    // 100 cd/m² first, then 115 and 92 in turns
    expect(measure(between(grey(180), grey(190), grey(174))).flashes).toHaveLength(1))
  it('takes codes for the light that they are: of PQ and of HLG others', () => {
    const of = (transfer: number) => ({ ...bt709, transfer })
    // 40 and 60 are next to nothing on a display of 200 cd/m²; so they are here
    expect(measure(flashing(5, 0.5, 40, 80), of(16)).flashes).toEqual([])
    // half of PQ is 92 cd/m², and 0.6 is 244; of BT.1886 they are 38 and 59
    expect(measure(between(grey(125), grey(147)), of(16)).flashes).toHaveLength(1)
    expect(measure(between(grey(125), grey(147)), of(18)).flashes).toHaveLength(1)
    expect(measure(between(grey(125), grey(142)), of(1)).flashes).toEqual([])
  })
  it('counts nothing where the darker state is over 160 cd/m²', () =>
    expect(measure(flashing(5, 0.5, 218, 235)).flashes).toEqual([]))
})

describe('parts', () => {
  it('are measured each by itself, and told where they lie in the whole', () => {
    const meter = partsMeter({ rate: makeRate(25), width: 256, height: 144, colour: null })
    const still = (n: number, v: number) => Array.from({ length: n }, () => traceOf(frame(v)))
    // twenty frames of one picture at the end of a part and at the beginning of the next are no second of it
    const parts = [
      { at: 0, traces: [...still(20, 50), ...still(20, 90)] },
      { at: 100, traces: [...still(20, 90), ...still(30, 120), ...[0, 1, 2].map(() => traceOf(black()))] },
    ]
    for (const p of parts) {
      meter.begin(p.at)
      for (const t of p.traces) meter.feed(t)
    }
    const found = meter.result()
    expect([found.freeze, found.black]).toEqual([[{ in: 120, out: 150 }], [{ in: 150, out: 153 }]])
    expect([found.levels.lowest, found.levels.highest]).toEqual([0, expect.closeTo(((200 - 16) / 219) * 100, 1)])
  })
})

describe('traces', () => {
  it('are the same after being kept', () => {
    const t = traceOf(frame(90, 7))
    expect(packTrace(t)).toHaveLength(traceSize)
    expect(unpackTrace(packTrace(t))).toEqual(t)
    const standIn = { ...t, damaged: true as const }
    expect(unpackTrace(packTrace(standIn))).toEqual(standIn)
    const buffer = Buffer.from(packTrace(t))
    const read = unpackTrace(buffer)
    buffer.fill(0)
    expect(read).toEqual(t)
  })
})

describe('levels (EBU R 103) and bars', () => {
  /** A picture of one colour in 8-bit codes over a share of its lines. */
  const patch = (y: number, u: number, v: number, share: number) => {
    const p = frame(110)
    const lines = Math.round(144 * share)
    p.planes[0].fill(y, 0, lines * 256)
    p.planes[1].fill(u, 0, Math.ceil(lines / 2) * 128)
    p.planes[2].fill(v, 0, Math.ceil(lines / 2) * 128)
    return p
  }
  const levels = (...pictures: Picture[]) => {
    const m = levelMeter(256, 144)
    for (const p of pictures) m.feed(traceOf(p))
    return m.result()
  }
  it.each([
    // 103 % is code 241.57, −1 % is 13.81: one code within, one beyond
    ['luma at 103 %', 241, 128, 128, 0],
    ['luma over 103 %', 242, 128, 128, 1],
    ['luma at −1 %', 14, 128, 128, 0],
    ['luma under −1 %', 13, 128, 128, 1],
    ['full red of BT.601', 81, 90, 240, 0],
    ['red that no R′G′B′ has', 120, 90, 240, 1],
    ['blue over its white', 200, 240, 110, 1],
  ])('%s', (_, y, u, v, n) => expect(levels(patch(y, u, v, 0.5)).excursions).toHaveLength(n))
  it.each([
    [8, 100],
    [8, 1080],
    [10, 100],
    [10, 1080],
  ] as const)('are what looking at every sample gives, at %d bits and %d lines (property)', (depth, lines) => {
    const [kr, kb] = lines >= 720 ? [0.2126, 0.0722] : [0.299, 0.114]
    const unit = 1 << (depth - 8)
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.integer({ min: 0, max: 255 }),
            fc.integer({ min: 0, max: 255 }),
            fc.integer({ min: 0, max: 255 }),
          ),
          { minLength: 8, maxLength: 8 },
        ),
        (colours) => {
          // columns of one colour, so that it makes no difference which samples are taken
          const p = blackPicture(32, lines, '4:2:2', depth)
          colours.forEach(([y, u, v], i) => {
            for (let line = 0; line < lines; line++) {
              p.planes[0].fill(y * unit, line * 32 + i * 4, line * 32 + i * 4 + 4)
              p.planes[1].fill(u * unit, line * 16 + i * 2, line * 16 + i * 2 + 2)
              p.planes[2].fill(v * unit, line * 16 + i * 2, line * 16 + i * 2 + 2)
            }
          })
          const out = (v: number) => v < -0.05 - 1e-9 || v > 1.05 + 1e-9
          const high = (l: number) => l < -0.01 - 1e-9 || l > 1.03 + 1e-9
          const near = (v: number) => Math.min(Math.abs(v + 0.05), Math.abs(v - 1.05)) < 1e-9
          const seen = colours.map(([y, u, v]) => {
            const [l, b, r] = [(y - 16) / 219, (u - 128) / 224, (v - 128) / 224]
            const [red, blue] = [l + 2 * (1 - kr) * r, l + 2 * (1 - kb) * b]
            return { l, rgb: [red, (l - kr * red - kb * blue) / (1 - kr - kb), blue] }
          })
          fc.pre(!seen.some((c) => near(c.l) || c.rgb.some(near)))
          const share = (n: number) => Math.round((n * 1e6) / 8)
          expect(traceOf(p).outside).toEqual({
            luma: share(seen.filter((c) => high(c.l)).length),
            gamut: share(seen.filter((c) => c.rgb.some(out)).length),
          })
        },
      ),
      { numRuns: lines > 500 ? 20 : 150 },
    )
  })
  it('go by the matrix of the pictures', () => {
    // a red of BT.2020 at 102 %, inside by its own matrix and at 107 % by that of BT.709
    const p = patch(75, 96, 242, 1)
    const gamut = (colour: Colour | null, lines: number) =>
      traceOf(p, { weights: lumaWeightsOf({ colour, width: (lines * 5) / 4, height: lines }) }).outside.gamut
    expect(gamut({ primaries: 9, transfer: 14, matrix: 9, fullRange: false }, 2160)).toBe(0)
    expect(gamut(bt709, 2160)).toBe(1e6)
    // what states none has that of its lines
    expect([gamut(null, 1080), gamut(null, 576)]).toEqual([gamut(bt709, 1080), gamut({ ...bt709, matrix: 6 }, 576)])
  })
  it('allows one per cent of the picture', () => {
    const small = frame(110)
    for (let y = 40; y < 56; y++) small.planes[0].fill(250, y * 256 + 100, y * 256 + 116)
    expect(levels(small).excursions).toEqual([])
    expect(
      levels(patch(250, 128, 128, 0.05), frame(90), patch(250, 128, 128, 0.05)).excursions.map((e) => [e.in, e.out]),
    ).toEqual([
      [0, 1],
      [2, 3],
    ])
  })
  it('finds the picture between bars, dark frames aside', () => {
    const letterbox = () => {
      const p = frame(90, 50)
      p.planes[0].fill(16, 0, 18 * 256)
      p.planes[0].fill(16, 126 * 256)
      return p
    }
    expect(levels(...Array.from({ length: 30 }, (_, i) => (i === 4 ? black() : letterbox()))).active).toEqual({
      x: 0,
      y: 18,
      width: 256,
      height: 108,
    })
    expect(levels(frame(90), frame(90)).active).toBeNull()
  })
})
