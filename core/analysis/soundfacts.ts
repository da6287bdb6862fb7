import type { Loudness } from './loudness'
import { decibels } from './meter'

/**
 * Sound of a stretch as measured, by output channel, before gain. LUFS, LU, dBTP, dBFS; −Infinity is kept as null, as
 * in JSON.
 */
export interface SoundFacts {
  readonly integrated: number | null
  readonly range: number | null
  readonly truePeak: number | null
  readonly momentaryMax: number | null
  readonly shortTermMax: number | null
  /** Sample peak of each channel. */
  readonly peaks: readonly (number | null)[]
  /** Left and right, from 0, where they are not the first two channels. */
  readonly pair?: readonly [number, number]
  /** Of left and right, −1 … 1; null when there are not two, or one is silent. */
  readonly correlation: number | null
  /** Whether what these two differ by is 60 dB under them; absent where an earlier edition measured it. */
  readonly alike?: boolean
  /**
   * Channels that carry data in the place of sound, from 0; the true peak is that of the others. `counted`: loudness
   * counts one of them, so that there are no figures of it.
   */
  readonly coded?: { readonly channels: readonly number[]; readonly counted: boolean }
}

/** Energy of a difference against that of what differs: 60 dB, which sums of 24 bits tell from nothing. */
const sameBy = 1e-6

/** Puts the facts together from linear peaks and sums. `products` are left², left·right and right². */
export function soundFactsOf(
  l: Loudness,
  truePeak: number,
  peaks: readonly number[],
  products: readonly [number, number, number] | null,
  samples: number,
): SoundFacts {
  const finite = (v: number | null) => (v !== null && Number.isFinite(v) ? v : null)
  const both = products ? Math.sqrt(products[0] * products[2]) : 0
  return {
    integrated: finite(l.integrated),
    range: finite(l.range),
    truePeak: finite(decibels(truePeak)),
    momentaryMax: finite(l.momentaryMax),
    shortTermMax: finite(l.shortTermMax),
    peaks: peaks.map((p) => finite(decibels(p))),
    correlation: both > samples * 1e-8 ? products![1] / both : null,
    alike: products !== null && products[0] - 2 * products[1] + products[2] <= sameBy * (products[0] + products[2]),
  }
}
