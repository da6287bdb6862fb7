import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { noise } from './noise'
import { kernel } from './kernel'
import { scalePlain, scalePlane, scalers, type ScaleJob } from './scale'

const job = (
  [w, h, tw, th]: readonly number[],
  wide: boolean,
  seed: number,
  changes: Partial<ScaleJob> = {},
): ScaleJob => {
  const make = (n: number) => (wide ? new Uint16Array(n) : new Uint8Array(n))
  return {
    src: noise(make(w! * h!), wide ? 1023 : 255, seed),
    stride: w!,
    height: h!,
    dst: make(tw! * th!),
    dstStride: tw!,
    from: { x: 0, y: 0, width: w!, height: h! },
    to: { x: 0, y: 0, width: tw!, height: th! },
    scaler: 'lanczos',
    ...changes,
  }
}

describe('scaling', () => {
  it('has a kernel here', () => expect(kernel()).not.toBeNull())
  it('is the same by the kernel and plainly, sample for sample, at any size', () => {
    const size = fc.integer({ min: 1, max: 70 })
    fc.assert(
      fc.property(
        fc.tuple(size, size, size, size),
        fc.boolean(),
        fc.nat(),
        fc.constantFrom(...scalers),
        (sizes, wide, seed, scaler) => {
          const fast = job(sizes, wide, seed, { scaler })
          const plain = job(sizes, wide, seed, { scaler })
          scalePlane(fast)
          scalePlain(plain)
          expect(fast.dst).toEqual(plain.dst)
        },
      ),
      { numRuns: 300 },
    )
  })
  it('is the same for parts of planes, and touches nothing beside its part', () => {
    for (const scaler of scalers) {
      const part = { from: { x: 6, y: 4, width: 50, height: 31 }, to: { x: 3, y: 5, width: 21, height: 40 }, scaler }
      const [fast, plain] = [job([64, 48, 30, 50], false, 5, part), job([64, 48, 30, 50], false, 5, part)]
      fast.dst.fill(77)
      plain.dst.fill(77)
      scalePlane(fast)
      scalePlain(plain)
      expect(fast.dst).toEqual(plain.dst)
      expect(fast.dst[4 * 30 + 10]).toBe(77)
      expect(fast.dst[10 * 30 + 2]).toBe(77)
      expect(fast.dst[10 * 30 + 24]).toBe(77)
    }
  })
  it('leaves flat planes flat, at every level', () => {
    for (const level of [0, 1, 16, 128, 235, 254, 255]) {
      const flat = job([97, 61, 40, 77], false, 1, {})
      flat.src.fill(level)
      scalePlane(flat)
      expect(new Set(flat.dst)).toEqual(new Set([level]))
    }
  })
  it('keeps a slope a slope: no sample is more than a step off its line, within the edges', () => {
    const slope = job([200, 8, 90, 8], false, 1)
    for (let i = 0; i < slope.src.length; i++) slope.src[i] = (i % 200) + 20
    scalePlane(slope)
    for (let x = 6; x < 84; x++) expect(Math.abs(slope.dst[x]! - ((x + 0.5) * (200 / 90) - 0.5 + 20))).toBeLessThan(1)
  })
  it('takes away what a smaller raster cannot hold: stripes of two samples become grey', () => {
    const stripes = job([256, 8, 64, 8], false, 1)
    for (let i = 0; i < stripes.src.length; i++) stripes.src[i] = i & 1 ? 255 : 0
    scalePlane(stripes)
    for (let x = 8; x < 56; x++) expect(Math.abs(stripes.dst[x]! - 127.5)).toBeLessThan(3)
  })
})
