import fc from 'fast-check'
import { expect, it } from 'vitest'
import { bandSums, bandSumsPlain } from './bands'
import { noise } from './noise'

it('adds up by the kernel as plainly, for any size, depth and bands', () => {
  const width = fc.integer({ min: 1, max: 70 })
  const lines = fc.array(fc.tuple(fc.nat(40), fc.nat(40)), { minLength: 1, maxLength: 9 })
  fc.assert(
    fc.property(width, lines, fc.boolean(), fc.nat(), (w, pairs, wide, seed) => {
      const plane = noise(wide ? new Uint16Array(w * 40) : new Uint8Array(w * 40), wide ? 65535 : 255, seed)
      const bands = Int32Array.from(pairs.flatMap(([a, b]) => [Math.min(a, b), Math.max(a, b)]))
      expect(bandSums(plane, w, bands)).toEqual(bandSumsPlain(plane, w, bands))
    }),
    { numRuns: 300 },
  )
})

it('adds up each column by itself', () => {
  const plane = Uint8Array.from([1, 2, 3, 10, 20, 30, 100, 200, 255])
  expect([...bandSums(plane, 3, Int32Array.from([0, 2, 2, 3, 1, 1]))]).toEqual([11, 22, 33, 100, 200, 255, 0, 0, 0])
})
