import fc from 'fast-check'
import { expect, it } from 'vitest'
import { history, truePeakOf, truePeakPlain } from './truepeak'

const sample = fc.float({ min: Math.fround(-1.5), max: Math.fround(1.5), noNaN: true })

it('finds the same by the kernel as plainly, to the last bit', () => {
  fc.assert(
    fc.property(fc.array(sample, { minLength: 1, maxLength: 300 }), fc.constantFrom(0, 0.3, 1), (list, sofar) => {
      const x = new Float32Array(history + list.length)
      x.set(list, history)
      expect(truePeakOf(x, history, x.length, sofar)).toBe(truePeakPlain(x, history, x.length, sofar))
    }),
    { numRuns: 500 },
  )
})

it('finds the same of tones, whose peaks lie close together, and of what comes before the stretch', () => {
  for (const step of [0.01, 0.3, 0.7854, 1.5708, 2.9, 3.1]) {
    const x = Float32Array.from({ length: 2000 }, (_, i) => 0.8 * Math.sin(i * step + 0.3))
    for (const [from, to] of [
      [11, 2000],
      [12, 13],
      [700, 703],
      [1990, 1999],
    ] as const)
      expect(truePeakOf(x, from, to, 0)).toBe(truePeakPlain(x, from, to, 0))
  }
  const loud = new Float32Array(40)
  loud[5] = 3e38
  loud[6] = -3e38
  expect(truePeakOf(loud, 12, 40, 0)).toBe(truePeakPlain(loud, 12, 40, 0))
})

it('passes over what is no number, as the plain one does', () => {
  const x = Float32Array.from({ length: 100 }, (_, i) => Math.sin(i * 1.4))
  x[50] = Number.NaN
  expect(truePeakOf(x, 11, 100, 0)).toBe(truePeakPlain(x, 11, 100, 0))
})
