import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { noise } from '../kernel/noise'
import { lookDifference, lookOf, lookSize } from './look'
import { blackPicture, toChroma422, toDepth, type Picture } from './picture'

const flat = (width: number, height: number, codes: readonly [number, number, number]): Picture => {
  const p = blackPicture(width, height, '4:2:0', 8)
  p.planes.forEach((plane, k) => plane.fill(codes[k]!))
  return p
}

describe('a picture seen small', () => {
  it('is of one size whatever the picture’s, and of one colour where the picture is', () => {
    const side = fc.integer({ min: 1, max: 200 })
    const code = fc.nat(255)
    fc.assert(
      fc.property(side, side, fc.tuple(code, code, code), (w, h, codes) => {
        const look = lookOf(flat(w, h, codes))
        expect(look).toHaveLength(lookSize)
        expect([...new Set(look.subarray(0, 2304))]).toEqual([codes[0]])
        expect([look.at(2304), look.at(-1)]).toEqual([codes[1], codes[2]])
      }),
    )
  })
  it('is the same at another depth, and with other chroma', () => {
    const p = flat(320, 180, [90, 100, 160])
    p.planes[0].set(noise(new Uint8Array(320 * 40), 255, 1), 320 * 20)
    expect(lookDifference(lookOf(p), lookOf(toDepth(toChroma422(p), 10)))).toEqual({ mean: 0, largest: 0 })
  })
  it('counts every sample of a cell', () => {
    const p = flat(640, 360, [50, 128, 128])
    const one = lookOf(p)
    // a cell is ten samples wide and ten lines high: half of one is another
    for (let y = 350; y < 360; y++) p.planes[0].fill(150, y * 640 + 630, y * 640 + 635)
    expect(lookDifference(one, lookOf(p))).toEqual({ mean: 50 / 2304, largest: 50 })
  })
  it('tells a change of colour alone', () => {
    const [a, b] = [flat(64, 36, [80, 128, 128]), flat(64, 36, [80, 128, 138])].map(lookOf)
    expect(lookDifference(a!, b!)).toEqual({ mean: 5, largest: 10 })
  })
})
