import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { likenessOf, peakSignalToNoise } from './likeness'
import { blackPicture, toChroma422, toDepth, type Picture, type Plane } from './picture'

const noise = (width: number, height: number, seed: number, bitDepth: 8 | 10 = 8): Picture => {
  const p = blackPicture(width, height, '4:2:0', bitDepth)
  let state = seed >>> 0
  for (const plane of p.planes)
    for (let i = 0; i < plane.length; i++) {
      state = (state * 1664525 + 1013904223) >>> 0
      plane[i] = (i * 3 + (state >>> 26)) & ((1 << bitDepth) - 1)
    }
  return p
}
const changed = (p: Picture, of: number, by: (v: number, i: number) => number): Picture => ({
  ...p,
  planes: p.planes.map((plane, k) => (k === of ? plane.map(by) : plane)) as unknown as Picture['planes'],
})

/** The same by its definition: every window by itself. */
function similarityByWindows(a: Plane, b: Plane, width: number, height: number, peak: number): number {
  let [sum, windows] = [0, 0]
  for (let y = 0; y + 8 <= height; y += 4)
    for (let x = 0; x + 8 <= width; x += 4) {
      const at = Array.from({ length: 64 }, (_, i) => (y + (i >> 3)) * width + x + (i & 7))
      const mean = (of: (i: number) => number) => at.reduce((n, i) => n + of(i), 0) / 64
      const [ma, mb] = [mean((i) => a[i]!), mean((i) => b[i]!)]
      const [va, vb] = [mean((i) => (a[i]! - ma) ** 2), mean((i) => (b[i]! - mb) ** 2)]
      const both = mean((i) => (a[i]! - ma) * (b[i]! - mb))
      const [c1, c2] = [(0.01 * peak) ** 2, (0.03 * peak) ** 2]
      sum += ((2 * ma * mb + c1) * (2 * both + c2)) / ((ma * ma + mb * mb + c1) * (va + vb + c2))
      windows++
    }
  return sum / windows
}

describe('likeness', () => {
  it('is whole between a picture and itself, whatever its depth and chroma are written in', () => {
    const p = noise(46, 30, 1)
    for (const other of [p, toDepth(p, 10), toChroma422(toDepth(p, 10))])
      expect(likenessOf(p, other)).toEqual({ errors: [0, 0, 0], ssim: 1 })
    expect(peakSignalToNoise(0)).toBeNull()
  })

  it('measures errors against the largest code, each plane by itself', () => {
    for (const [depth, peak] of [
      [8, 255],
      [10, 1023],
    ] as const) {
      const p = blackPicture(32, 16, '4:2:0', depth)
      const off = likenessOf(
        p,
        changed(p, 1, (v) => v + 5),
      )
      expect(off.errors).toEqual([0, 25 / peak ** 2, 0])
      // one in two is two off: 10 log10(peak² / 2)
      const some = likenessOf(
        p,
        changed(p, 0, (v, i) => v + (i & 1 ? 2 : 0)),
      )
      expect(peakSignalToNoise(some.errors[0])).toBeCloseTo(10 * Math.log10(peak ** 2 / 2), 9)
    }
  })

  it('is the mean of the similarities of all windows', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 8, max: 40 }),
        fc.integer({ min: 8, max: 28 }),
        fc.integer(),
        fc.constantFrom(8, 10),
        (w, h, seed, depth) => {
          const [width, height] = [w * 2, h]
          const a = noise(width, height, seed, depth as 8 | 10)
          const b = changed(a, 0, (v, i) => (v * 7 + (i % 5) * 4) >> 3)
          const peak = (1 << depth) - 1
          const by = similarityByWindows(a.planes[0], b.planes[0], width, height, peak)
          expect(likenessOf(a, b).ssim).toBeCloseTo(by, 9)
        },
      ),
      { numRuns: 40 },
    )
  })

  it('goes down with what is lost, more for what the eye sees as structure than for a change of level', () => {
    const p = noise(64, 48, 5)
    const level = changed(p, 0, (v) => Math.min(255, v + 4))
    const coarse = changed(p, 0, (v, i) => v + (i & 1 ? 4 : -4))
    expect(likenessOf(p, level).ssim).toBeGreaterThan(likenessOf(p, coarse).ssim)
    const worse = changed(p, 0, (v, i) => v + (i & 1 ? 12 : -12))
    expect(likenessOf(p, worse).ssim).toBeLessThan(likenessOf(p, coarse).ssim)
  })
})
