import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { packPcm, packPcmPlain, unpackPcm, unpackPcmPlain } from './pcm'

const count = fc.nat(70)
const samples = (n: number) =>
  fc.array(
    fc.oneof(
      fc.float({ min: -2, max: 2, noNaN: true }),
      // halves of steps, where rounding turns
      fc.integer({ min: -(2 ** 24), max: 2 ** 24 }).map((v) => Math.fround(v / 2 ** 24)),
      fc.constantFrom(0, -0, 1, -1, Infinity, -Infinity, NaN, 2 ** -24, -(2 ** -24), 0.99999994, -0.99999994, 1e-40),
    ),
    { minLength: n, maxLength: n },
  )

describe('sound is packed by the kernel as plainly', () => {
  it.each([2, 3] as const)('in integers of %i bytes', (bytes) =>
    fc.assert(
      fc.property(
        count.chain((n) =>
          fc.array(samples(n).map(Float32Array.from.bind(Float32Array)), { minLength: 1, maxLength: 5 }),
        ),
        fc.boolean(),
        (channels, little) => {
          expect(packPcm(channels as Float32Array[], bytes, little)).toEqual(
            packPcmPlain(channels as Float32Array[], bytes, little),
          )
        },
      ),
    ),
  )
  it('and read alike, of as many whole frames as there are', () =>
    fc.assert(
      fc.property(
        fc.uint8Array({ maxLength: 400 }),
        fc.constantFrom<2 | 3 | 4>(2, 3, 4),
        fc.integer({ min: 1, max: 5 }),
        fc.boolean(),
        (from, bytes, channels, littleEndian) => {
          const shape = { bytes, channels, littleEndian }
          expect(unpackPcm(from, shape)).toEqual(unpackPcmPlain(from, shape))
        },
      ),
    ))
})

it('integers of up to 24 bits come back as they were', () =>
  fc.assert(
    fc.property(
      fc.uint8Array({ maxLength: 300 }),
      fc.constantFrom<2 | 3>(2, 3),
      fc.boolean(),
      (from, bytes, little) => {
        const whole = from.subarray(0, Math.floor(from.length / (2 * bytes)) * 2 * bytes)
        const channels = unpackPcm(whole, { bytes, channels: 2, littleEndian: little })
        expect(packPcm(channels, bytes, little)).toEqual(whole)
      },
    ),
  ))

it('rounds half a step up, and holds at full scale', () => {
  const step = 2 ** -15
  const of = (...v: number[]) => [...new Int16Array(packPcm([Float32Array.from(v)], 2, true).buffer)]
  expect(of(0.5 * step, 1.5 * step, -0.5 * step, -1.5 * step, 0.49 * step)).toEqual([1, 2, 0, -1, 0])
  expect(of(1, 2, -1, -2, NaN)).toEqual([32767, 32767, -32768, -32768, 0])
})
