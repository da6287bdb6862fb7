import { kernel } from './kernel'

/**
 * The two sections of a K-weighting filter as they are run, direct form II transposed: b0, b1, b2, a1 and a2 of the
 * shelf, and a1 and a2 of the high pass, whose others are 1, −2 and 1.
 */
export type WeightingTaps = readonly [number, number, number, number, number, number, number]

/** A channel's samples, and where its filter stands: four numbers, zero at the start, changed as it runs. */
export interface Weighted {
  readonly x: Float32Array
  readonly state: Float64Array
}

/** What the kernel reads and writes: the taps, both filters' states in pairs, both sums. */
const numbers = new Float64Array(18)

/** Numbers this small would otherwise linger as denormals and slow silence down. */
const settled = (v: number) => (Math.abs(v) < 1e-30 ? 0 : v)

/** Sum of squares of the weighted samples [from, to) of a channel. */
export function weighPlain(taps: WeightingTaps, { x, state }: Weighted, from: number, to: number): number {
  const [b0, b1, b2, a1, a2, h1, h2] = taps
  let [z1, z2, z3, z4] = [state[0]!, state[1]!, state[2]!, state[3]!]
  let energy = 0
  for (let i = from; i < to; i++) {
    const v = x[i]!
    const u = b0 * v + z1
    z1 = b1 * v - a1 * u + z2
    z2 = b2 * v - a2 * u
    const y = u + z3
    z3 = -2 * u - h1 * y + z4
    z4 = u - h2 * y
    energy += y * y
  }
  state[0] = settled(z1)
  state[1] = settled(z2)
  state[2] = settled(z3)
  state[3] = settled(z4)
  return energy
}

/** The same of two channels, or of two filters on one, at once; by the kernel where there is one. */
export function weighBoth(taps: WeightingTaps, a: Weighted, b: Weighted, from: number, to: number): [number, number] {
  const fast = kernel()
  if (!fast) return [weighPlain(taps, a, from, to), weighPlain(taps, b, from, to)]
  numbers.set(taps)
  for (let k = 0; k < 4; k++) {
    numbers[8 + 2 * k] = a.state[k]!
    numbers[9 + 2 * k] = b.state[k]!
  }
  const [at, left, right] = fast.hold([numbers, a.x.subarray(from, to), b.x.subarray(from, to)])
  fast.run.weigh(left!, right!, to - from, at!, at! + 64)
  fast.take(at!, numbers)
  for (let k = 0; k < 4; k++) {
    a.state[k] = settled(numbers[8 + 2 * k]!)
    b.state[k] = settled(numbers[9 + 2 * k]!)
  }
  return [numbers[16]!, numbers[17]!]
}
