import fc from 'fast-check'
import { luma709 } from '../media/colour'
import { describe, expect, it } from 'vitest'
import { differenceGain, differenceOf } from './difference'
import { blackPicture, toChroma422, toDepth, type Picture } from './picture'
import { waveformOf, waveformSize } from './waveform'

const flat = (luma: number, bitDepth: 8 | 10 = 8, width = 512, height = 16): Picture => {
  const p = blackPicture(width, height, '4:2:2', bitDepth)
  p.planes[0].fill(luma)
  return p
}
const { columns, levels, highest, lowest } = waveformSize
/** The levels, in per cent, that a column of a waveform shows. */
const shown = (density: Uint8Array, column: number) =>
  Array.from({ length: levels }, (_, row) => row).flatMap((row) =>
    density[row * columns + column]! > 0 ? [highest - (row / (levels - 1)) * (highest - lowest)] : [],
  )

describe('the waveform of a picture', () => {
  it.each([
    ['black', 16, 8, 0],
    ['white', 235, 8, 100],
    ['white of ten bits', 940, 10, 100],
    ['the middle', 502, 10, 50],
    ['below black', 4, 8, -5.48],
    ['above white of ten bits', 1019, 10, 109],
  ] as const)('%s is where its level is', (_, code, depth, percent) => {
    const w = waveformOf(flat(code, depth), luma709)
    for (const column of [0, 100, 255]) {
      const [level, ...more] = shown(w.density, column)
      expect([Math.abs(level! - percent) < 0.3, more]).toEqual([true, []])
    }
    expect([w.lowest, w.highest].map((v) => Math.abs(v - percent) < 0.1)).toEqual([true, true])
  })
  it('tells columns apart, and one sample is seen', () => {
    const p = flat(16)
    p.planes[0][3 * 512 + 300] = 235
    const { density, highest: most } = waveformOf(p, luma709)
    expect(shown(density, 150)).toHaveLength(2)
    expect(shown(density, 149)).toHaveLength(1)
    expect(most).toBeCloseTo(100, 5)
  })
  it('says what EBU R 103 asks', () => {
    const p = flat(128)
    p.planes[0].fill(254, 0, 512 * 8)
    const { luma, gamut } = waveformOf(p, luma709)
    expect([luma, gamut]).toEqual([50, 50])
  })
})

describe('the difference of two pictures', () => {
  it('is none of the same, whatever depth it is brought to', () => {
    const p = flat(99)
    const coarse = {
      ...blackPicture(512, 16, '4:2:0', 8),
      planes: p.planes.map((x, i) => (i ? x.subarray(0, 2048) : x)),
    }
    for (const [q, brought] of [
      [p, false],
      [toDepth(p, 10), true],
      [coarse as unknown as Picture, true],
    ] as const)
      expect(differenceOf(p, q)).toMatchObject({ mean: 0, largest: 0, share: 0, scaled: false, brought })
  })
  it('is as large as it is, and shown brighter; a step of ten bits counts a quarter', () => {
    const p = flat(400, 10)
    const q = flat(400, 10)
    q.planes[0][7] = 401
    const d = differenceOf(p, q)
    expect([d.largest, d.share, d.seen[7], d.seen[6]]).toEqual([0.25, 100 / (512 * 16), 1, 0])
    q.planes[1][0] = 512 + 40
    const { seen, largest } = differenceOf(p, q)
    expect([largest, seen[0], seen[1], seen[2]]).toEqual([10, 10 * differenceGain, 10 * differenceGain, 0])
  })
  it('is symmetric, and no more than what was changed (property)', () =>
    fc.assert(
      fc.property(fc.array(fc.nat(255), { minLength: 64, maxLength: 64 }), fc.nat(30), (codes, by) => {
        const p = blackPicture(8, 8, '4:2:0', 8)
        p.planes[0].set(codes)
        const q = blackPicture(8, 8, '4:2:0', 8)
        q.planes[0].set(codes.map((c) => Math.min(255, c + by)))
        const [there, back] = [differenceOf(p, q), differenceOf(q, p)]
        expect([there.mean, there.largest]).toEqual([back.mean, back.largest])
        expect(there.largest).toBeLessThanOrEqual(by)
      }),
    ))
  it('brings pixels of another shape to those of the first', () => {
    const hd = blackPicture(32, 18, '4:2:0', 8)
    const sd = blackPicture(20, 16, '4:2:0', 8)
    for (const p of [hd, sd]) p.planes[0].fill(200)
    expect(differenceOf(hd, sd, 64 / 45)).toMatchObject({ scaled: true, largest: 0 })
    expect(differenceOf(sd, hd, 45 / 64)).toMatchObject({ scaled: true, largest: 0 })
    expect(differenceOf(hd, sd).largest).toBeGreaterThan(100)
  })
  it('brings another raster to the first, and says so', () => {
    const small = blackPicture(256, 8, '4:2:0', 8)
    small.planes[0].fill(99)
    expect(differenceOf(toChroma422(flat(99)), small)).toMatchObject({ scaled: true, largest: 0, width: 512 })
  })
})
