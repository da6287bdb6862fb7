import fc from 'fast-check'
import { expect, it } from 'vitest'
import { noise } from './noise'
import {
  deepen,
  deepenPlain,
  difference,
  differencePlain,
  dither,
  ditherPlain,
  downChroma,
  downChromaPlain,
  flatten,
  flattenPlain,
  upChroma,
  upChromaPlain,
} from './planes'

const eight = (n: number, seed: number) => noise(new Uint8Array(n), 255, seed)
const ten = (n: number, seed: number) => noise(new Uint16Array(n), 1023, seed)
const size = fc.integer({ min: 1, max: 75 })

it('changes depth by the kernel as plainly, for any length and code', () => {
  const all = Uint16Array.from({ length: 1030 }, (_, i) => i)
  expect(flatten(all)).toEqual(flattenPlain(all))
  expect([flatten(all)[1], flatten(all)[2], flatten(all)[1023]]).toEqual([0, 1, 255])
  expect(deepen(Uint8Array.of(0, 1, 255))).toEqual(Uint16Array.of(0, 4, 1020))
  fc.assert(
    fc.property(size, fc.nat(), (n, seed) => {
      expect(deepen(eight(n, seed))).toEqual(deepenPlain(eight(n, seed)))
      expect(flatten(ten(n, seed))).toEqual(flattenPlain(ten(n, seed)))
    }),
  )
})

it('dithers by the kernel as plainly, for any size', () => {
  fc.assert(
    fc.property(size, size, fc.nat(), (width, height, seed) => {
      expect(dither(ten(width * height, seed), width)).toEqual(ditherPlain(ten(width * height, seed), width))
    }),
  )
})

it('dithers so that squares of four keep what one sample cannot, and codes of 8 bits stay', () => {
  for (let code = 0; code <= 1020; code++) {
    const square = ditherPlain(new Uint16Array(4).fill(code), 2)
    expect(square.reduce((a, b) => a + b)).toBe(code)
  }
  expect(ditherPlain(Uint16Array.of(1021, 1022, 1023, 1023), 2)).toEqual(Uint8Array.of(255, 255, 255, 255))
})

it('makes chroma lines by the kernel as plainly, for any size, in both depths', () => {
  fc.assert(
    fc.property(size, size, fc.nat(), (width, height, seed) => {
      for (const make of [eight, ten]) {
        const half = make(width * ((height + 1) >> 1), seed)
        expect(upChroma(half, width, height)).toEqual(upChromaPlain(half, width, height))
        const whole = make(width * height, seed)
        expect(downChroma(whole, width)).toEqual(downChromaPlain(whole, width))
      }
    }),
  )
})

it('weighs chroma lines 3 to 1, the first and the last by themselves', () => {
  expect(upChroma(Uint8Array.of(10, 20), 1, 4)).toEqual(Uint8Array.of(10, 13, 18, 20))
  expect(downChroma(Uint8Array.of(10, 21, 7), 1)).toEqual(Uint8Array.of(16, 7))
})

it('sums differences by the kernel as plainly, also of different depths', () => {
  fc.assert(
    fc.property(size, size, fc.nat(), fc.nat(), (width, height, p, q) => {
      const n = width * height
      for (const a of [eight(n, p), ten(n, p)])
        for (const b of [eight(n, q), ten(n, q)]) expect(difference(a, b)).toBe(differencePlain(a, b))
    }),
  )
  const [white, black] = [new Uint8Array(3_000_001).fill(255), new Uint16Array(3_000_001)]
  expect(difference(white, black)).toBe(3_000_001 * 255)
})
