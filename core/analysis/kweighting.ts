import type { WeightingTaps } from '../kernel/weighting'

/** One second-order section, direct form II transposed. */
export interface Biquad {
  readonly b0: number
  readonly b1: number
  readonly b2: number
  readonly a1: number
  readonly a2: number
}

/** The rate of the table of the standard. */
const tabulated = 48_000

/** The denominator of the high-pass section, its first coefficient brought to 1 by `a0`. */
function highPassAt(sampleRate: number) {
  const k = Math.tan((Math.PI * 38.13547087602444) / sampleRate)
  const q = 0.5003270373238773
  const a0 = 1 + k / q + k * k
  return { a0, a1: (2 * (k * k - 1)) / a0, a2: (1 - k / q + k * k) / a0 }
}

/**
 * The two K-weighting sections of ITU-R BS.1770-5 Annex 1 for any sample rate. The standard tabulates 48 kHz;
 * these are the analogue prototypes behind that table, bilinear-transformed, and give the table at 48 kHz. There the
 * second section lets high frequencies through 0.04 dB louder, since its numerator is 1, −2, 1 as it stands; so that
 * they are as loud at every rate, the first one makes up for what that comes to elsewhere.
 */
export function kWeighting(sampleRate: number): [Biquad, Biquad] {
  const { a0: own, a1, a2 } = highPassAt(sampleRate)
  const level = highPassAt(tabulated).a0 / own
  const shelf = (() => {
    const k = Math.tan((Math.PI * 1681.974450955533) / sampleRate)
    const q = 0.7071752369554196
    const vh = 10 ** (3.999843853973347 / 20)
    const vb = vh ** 0.4996667741545416
    const a0 = 1 + k / q + k * k
    return {
      b0: (level * (vh + (vb * k) / q + k * k)) / a0,
      b1: (level * 2 * (k * k - vh)) / a0,
      b2: (level * (vh - (vb * k) / q + k * k)) / a0,
      a1: (2 * (k * k - 1)) / a0,
      a2: (1 - k / q + k * k) / a0,
    }
  })()
  return [shelf, { b0: 1, b1: -2, b2: 1, a1, a2 }]
}

/** The same as they are run. */
export function weightingTaps(sampleRate: number): WeightingTaps {
  const [{ b0, b1, b2, a1, a2 }, highPass] = kWeighting(sampleRate)
  return [b0, b1, b2, a1, a2, highPass.a1, highPass.a2]
}
