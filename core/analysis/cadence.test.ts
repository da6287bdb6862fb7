import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Picture } from '../picture/picture'
import { beatsText, cadenceMeter, repeatsOf, type Beat } from './cadence'
import { traceOf } from './trace'

const [width, height] = [128, 72]

/** A bar that moves on by each moment, over a still ramp. */
function at(moment: number, speed = 3, noise = 0): Picture {
  const luma = new Uint8Array(width * height)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const bar = (x + moment * speed) % 64 < 12
      luma[y * width + x] = 40 + (x >> 1) + (bar ? 90 : 0) + noise
    }
  const chroma = () => new Uint8Array((width * height) >> 2).fill(128)
  return { width, height, chroma: '4:2:0', bitDepth: 8, planes: [luma, chroma(), chroma()] }
}

const found = (moments: readonly number[], speed?: number, noise: (n: number) => number = () => 0) => {
  const meter = cadenceMeter()
  moments.forEach((m, n) => meter.feed(traceOf(at(m, speed, noise(n)))))
  return meter.result()
}
const count = (n: number, of: (i: number) => number) => Array.from({ length: n }, (_, i) => of(i))
/** Pictures of a rate shown at another, each the last that is due. */
const shownAt = (n: number, from: number, to: number) => count(n, (i) => Math.floor((i * from) / to + 1e-9))
const beats = (list: readonly Beat[]) => list.map((b) => [b.shown, b.every])

describe('pictures that are repeated in a beat', () => {
  it.each([
    [24, 25, 150, 25],
    [24, 30, 60, 5],
    [25, 30, 60, 6],
    [20, 25, 60, 5],
    [18, 24, 60, 4],
  ])('are told of %d a second shown at %d', (from, to, frames, every) => {
    const list = found(shownAt(frames, from, to))
    expect(beats(list)).toEqual([[1, every]])
    expect(repeatsOf(list)).toEqual(list)
    expect(beatsText(list)).toBe(`one picture in ${every} is the one before again`)
    // all but what lies before the first repeat and after the last is of the stretch
    expect(list[0]!.in).toBeLessThanOrEqual(2 * every)
    expect(list[0]!.out).toBeGreaterThan(frames - 2 * every)
  })
  it('are told of 24000/1001 a second shown at 25, whose beat is a frame longer here and there', () => {
    const list = found(shownAt(250, 24_000 / 1001, 25))
    expect(beats(list)).toEqual([[1, 24]])
  })
  it('are told though each repeat is a little refined, as codecs do', () => {
    const moments = shownAt(90, 24, 30)
    expect(beats(found(moments, 3, (n) => (moments[n] === moments[n - 1] ? 0.5 : 0)))).toEqual([[1, 5]])
  })
  it('are told between a cut and a still, and each stretch by itself', () => {
    const moments = [...shownAt(40, 24, 30), ...count(30, () => 500), ...shownAt(40, 25, 30).map((m) => 700 + m)]
    const list = found(moments)
    expect(beats(list)).toEqual([
      [1, 5],
      [1, 6],
    ])
    expect(list[0]!.out).toBeLessThanOrEqual(40)
    expect(list[1]!.in).toBeGreaterThanOrEqual(70)
    expect(beatsText(list)).toMatch(/in 5 .*, one picture in 6 /)
  })
})

describe('pictures that are held', () => {
  it.each([
    [25, 50, [[2, 2]], 'each picture twice'],
    [12.5, 25, [[2, 2]], 'each picture twice'],
    [20, 60, [[3, 3]], 'each picture three times'],
    [24, 60, [[2, 5]], 'pictures twice, and three times in a beat of 5'],
  ])('are of %d a second shown at %d, and no repeats of another rate', (from, to, expected, text) => {
    const list = found(shownAt(80, from, to))
    expect(beats(list)).toEqual(expected)
    expect(repeatsOf(list)).toEqual([])
    expect(beatsText(list)).toBe(text)
  })
})

describe('what is no beat', () => {
  it('is an even movement, slow or fast, or none', () => {
    for (const speed of [1, 2, 5, 11])
      expect(
        found(
          count(120, (i) => i),
          speed,
        ),
      ).toEqual([])
    expect(found(count(120, () => 7))).toEqual([])
  })
  it('is a movement now and then, as that of a hand of a clock', () => {
    expect(found(count(300, (i) => Math.floor(i / 25)))).toEqual([])
  })
  it('is a picture that is repeated by itself, or several at no even distance', () => {
    const once = [...count(40, (i) => i), ...count(40, (i) => 39 + i)]
    expect(found(once)).toEqual([])
    const uneven = [9, 22, 29, 48, 53, 71]
    expect(found(count(90, (i) => i - uneven.filter((u) => u <= i).length))).toEqual([])
  })
  it('is a flicker over what stands still', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const light = (n: number) => (Math.imul(seed + n, 2654435761) >>> 16) % 6
        expect(
          found(
            count(100, () => 3),
            3,
            light,
          ),
        ).toEqual([])
      }),
      { numRuns: 20 },
    )
  })
  it('are repeats of which none is as far from the next as from the last', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 5, max: 40 }), { minLength: 6, maxLength: 6 }), (gaps) => {
        fc.pre(gaps.every((g, i) => i === 0 || Math.abs(g - gaps[i - 1]!) > 1))
        const repeats = gaps.map((_, i) => gaps.slice(0, i + 1).reduce((n, g) => n + g, 0))
        const moments = count(repeats.at(-1)! + 20, (i) => i - repeats.filter((r) => r <= i).length)
        expect(found(moments)).toEqual([])
      }),
      { numRuns: 30 },
    )
  })
})
