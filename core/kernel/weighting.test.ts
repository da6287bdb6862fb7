import fc from 'fast-check'
import { expect, it } from 'vitest'
import { weighBoth, weighPlain, type Weighted, type WeightingTaps } from './weighting'

// of BS.1770-5 at 48 kHz, rounded: any stable ones do
const taps: WeightingTaps = [
  1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585, -1.99004745483398,
  0.99007225036621,
]
const sample = fc.float({ min: -2, max: 2, noNaN: true })
const channel = (x: readonly number[]): Weighted => ({ x: Float32Array.from(x), state: new Float64Array(4) })

it('weighs two channels as it does each alone, to the last bit, stretch after stretch', () => {
  fc.assert(
    fc.property(fc.array(fc.tuple(sample, sample), { maxLength: 400 }), fc.nat(400), (list, cut) => {
      const both = [channel(list.map((s) => s[0])), channel(list.map((s) => s[1]))] as const
      const alone = [channel(list.map((s) => s[0])), channel(list.map((s) => s[1]))] as const
      const middle = Math.min(cut, list.length)
      for (const [from, to] of [
        [0, middle],
        [middle, list.length],
      ] as const) {
        expect(weighBoth(taps, both[0], both[1], from, to)).toEqual(alone.map((a) => weighPlain(taps, a, from, to)))
        both.forEach((b, i) => expect(b.state).toEqual(alone[i]!.state))
      }
    }),
    { numRuns: 300 },
  )
})

it('comes to rest after sound, on both sides', () => {
  const burst = Array.from({ length: 200_000 }, (_, i) => (i < 100 ? 1 : 0))
  const [a, b] = [channel(burst), channel(burst.map((v) => -v))]
  weighBoth(taps, a, b, 0, burst.length)
  expect([...a.state, ...b.state].every((z) => z === 0)).toBe(true)
})
