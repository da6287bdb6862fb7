/** One second-order section, direct form II transposed. */
export interface Biquad {
  readonly b0: number
  readonly b1: number
  readonly b2: number
  readonly a1: number
  readonly a2: number
}

/**
 * The two K-weighting sections of ITU-R BS.1770-5 Annex 1 for any sample rate. The standard tabulates 48 kHz;
 * these are the analogue prototypes behind that table, bilinear-transformed, and give the table at 48 kHz.
 */
export function kWeighting(sampleRate: number): [Biquad, Biquad] {
  const shelf = (() => {
    const k = Math.tan((Math.PI * 1681.974450955533) / sampleRate)
    const q = 0.7071752369554196
    const vh = 10 ** (3.999843853973347 / 20)
    const vb = vh ** 0.4996667741545416
    const a0 = 1 + k / q + k * k
    return {
      b0: (vh + (vb * k) / q + k * k) / a0,
      b1: (2 * (k * k - vh)) / a0,
      b2: (vh - (vb * k) / q + k * k) / a0,
      a1: (2 * (k * k - 1)) / a0,
      a2: (1 - k / q + k * k) / a0,
    }
  })()
  const highPass = (() => {
    const k = Math.tan((Math.PI * 38.13547087602444) / sampleRate)
    const q = 0.5003270373238773
    const a0 = 1 + k / q + k * k
    return { b0: 1, b1: -2, b2: 1, a1: (2 * (k * k - 1)) / a0, a2: (1 - k / q + k * k) / a0 }
  })()
  return [shelf, highPass]
}

/**
 * Sum of squares of the K-weighted samples [from, to) of one channel; `state` is where its filter stands, four zeroes
 * at the start.
 */
export type WeightedEnergy = (state: Float64Array, x: Float32Array, from: number, to: number) => number

export function weightedEnergy(sampleRate: number): WeightedEnergy {
  const [s, h] = kWeighting(sampleRate)
  const { b0, b1, b2, a1, a2 } = s
  const { a1: h1, a2: h2 } = h
  // numbers this small would otherwise linger as denormals and slow silence down
  const settled = (v: number) => (Math.abs(v) < 1e-30 ? 0 : v)
  return (state, x, from, to) => {
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
}
