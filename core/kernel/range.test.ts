import fc from 'fast-check'
import { expect, it } from 'vitest'
import { noise } from './noise'
import { rangeOf, rangePlain, type RangeJob } from './range'

/** A picture whose codes keep to a part of the range, so that some samples are inside and some are not. */
function job(width: number, height: number, wide: boolean, half: boolean, spread: number, seed: number): RangeJob {
  const cw = (width + 1) >> 1
  const chromaLines = half ? (height + 1) >> 1 : height
  const unit = wide ? 4 : 1
  const make = (n: number, grey: number, k: number) => {
    const plane = noise(wide ? new Uint16Array(n) : new Uint8Array(n), 255 * unit, seed + k)
    return plane.map((v) => Math.round(grey + (v - 128 * unit) * spread)) as typeof plane
  }
  return {
    planes: [
      make(width * height, 126 * unit, 0),
      make(cw * chromaLines, 128 * unit, 1),
      make(cw * chromaLines, 128 * unit, 2),
    ],
    width,
    height,
    chromaLines,
  }
}

it('counts by the kernel as plainly, for any size, depth and chroma', () => {
  const size = fc.integer({ min: 1, max: 130 })
  const spread = fc.constantFrom(0, 0.3, 0.5, 0.7, 0.8, 0.98)
  fc.assert(
    fc.property(size, size, fc.boolean(), fc.boolean(), spread, fc.nat(), (w, h, wide, half, s, seed) => {
      const j = job(w, h, wide, half, s, seed)
      expect(rangeOf(j)).toEqual(rangePlain(j))
    }),
    { numRuns: 400 },
  )
})

it('is the same at 720 lines and more, where the matrix is another', () => {
  for (const wide of [false, true]) {
    const j = job(128, 721, wide, true, 0.7, 5)
    expect(rangeOf(j)).toEqual(rangePlain(j))
    expect(rangeOf(j).gamut).toBeGreaterThan(0)
  }
})

it('finds the codes at the very bounds on their right sides', () => {
  // of luma −1 % is code 13.81, 103 % is 241.57; of R′G′B′ −5 % is 5.05, 105 % is 245.95
  for (const [code, luma, gamut] of [
    [5, 1, 1],
    [6, 1, 0],
    [13, 1, 0],
    [14, 0, 0],
    [241, 0, 0],
    [242, 1, 0],
    [245, 1, 0],
    [246, 1, 1],
  ] as const) {
    const planes = [
      new Uint8Array(64 * 64).fill(code),
      new Uint8Array(32 * 32).fill(128),
      new Uint8Array(32 * 32).fill(128),
    ]
    const found = rangeOf({ planes: planes as never, width: 64, height: 64, chromaLines: 32 })
    const [samples, sites] = [64 * 64, 32 * 64]
    const outside = { luma: luma * samples, gamut: gamut * sites }
    expect(found).toEqual({ samples, sites, lowest: code, highest: code, ...outside })
  }
})
