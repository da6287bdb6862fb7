import fc from 'fast-check'
import { expect, it } from 'vitest'
import { luma709 } from '../media/colour'
import { noise } from './noise'
import { fromRgb, fromRgbPlain, toRgb, toRgbPlain } from './rgb'

const size = fc.record({ width: fc.integer({ min: 1, max: 40 }), height: fc.integer({ min: 1, max: 12 }) })

it('makes R′G′B′ by the kernel as plainly, for any size, depth and code', () => {
  fc.assert(
    fc.property(size, fc.boolean(), fc.nat(), (s, deep, seed) => {
      const cw = (s.width + 1) >> 1
      const planes = [s.width, cw, cw].map((w, k) =>
        deep
          ? noise(new Uint16Array(w * s.height), 1023, seed + k)
          : noise(new Uint8Array(w * s.height), 255, seed + k),
      )
      const [Y, U, V] = planes as [Uint16Array, Uint16Array, Uint16Array]
      expect(toRgb([Y, U, V], s, luma709)).toEqual(toRgbPlain([Y, U, V], s, luma709))
    }),
  )
})

it('makes codes of R′G′B′ by the kernel as plainly, of what is far outside and of no number as well', () => {
  const values = fc.oneof(fc.float({ min: -2, max: 3 }), fc.constantFrom(NaN, Infinity, -Infinity, 0, 1, 0.5))
  fc.assert(
    fc.property(size, fc.infiniteStream(values), fc.constantFrom(8 as const, 10 as const), (s, stream, depth) => {
      const rgb = Float32Array.from({ length: s.width * s.height * 3 }, () => stream.next().value as number)
      const made = fromRgb(rgb, s, depth, luma709)
      expect(made).toEqual(fromRgbPlain(rgb, s, depth, luma709))
      const [least, most] = depth === 8 ? [1, 254] : [4, 1019]
      for (const plane of made) for (const v of plane) expect(v >= least && v <= most).toBe(true)
    }),
  )
})
