import fc from 'fast-check'
import { expect, it } from 'vitest'
import { carriedBits } from './carriedbits'

/** Whole numbers of `depth` bits as they are decoded. */
const decoded = (depth: number, numbers: readonly number[]) => Float32Array.from(numbers, (n) => n / 2 ** (depth - 1))

it('tells what is carried by the finest step of any sample of any channel', () => {
  const numbers = (depth: number) => fc.array(fc.integer({ min: -(2 ** (depth - 1)), max: 2 ** (depth - 1) - 1 }))
  fc.assert(
    fc.property(
      fc.integer({ min: 8, max: 24 }).chain((d) => fc.tuple(fc.constant(d), fc.array(numbers(d), { maxLength: 4 }))),
      ([depth, channels]) => {
        const meter = carriedBits()
        for (const c of channels) meter.feed([decoded(depth, c)])
        const finest = Math.max(
          0,
          ...channels.flat().map((n) => {
            let bits = depth
            for (let v = n; v !== 0 && v % 2 === 0; v /= 2) bits--
            return n === 0 ? 0 : bits
          }),
        )
        expect(meter.result()).toBe(finest || null)
      },
    ),
  )
})

it.each([
  ['sixteen bits in twenty-four', 24, [256, -512, 32512 * 256], 16],
  ['the lowest of twenty-four', 24, [256, 1], 24],
  ['nothing but the lowest number', 24, [-(2 ** 23)], 1],
  ['twenty-four bits in thirty-two', 32, [256, 1024], 24],
  ['silence', 24, [0, 0], null],
])('%s', (_, depth, numbers, bits) => {
  const meter = carriedBits()
  meter.feed([decoded(depth, numbers), new Float32Array(2)])
  expect(meter.result()).toBe(bits)
})
