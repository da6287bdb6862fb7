import type { Loudness } from './loudness'
import { decibels } from './meter'

/** Two channels held against each other, left and right, from 0. */
export interface PairFacts {
  readonly channels: readonly [number, number]
  /** −1 … 1; null when there are not two, or one is silent. */
  readonly correlation: number | null
  /** Whether what these two differ by is 60 dB under them. */
  readonly alike: boolean
}

/** A mix beside the programme: its channels, from 0, and its loudness as that of the programme. */
export interface MixFacts extends Pick<SoundFacts, 'integrated' | 'momentaryMax'> {
  readonly channels: readonly number[]
}

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
  /** Left and right of each mix, and of channels that stand in twos; the front pair first. */
  readonly pairs: readonly PairFacts[]
  /** The channels, from 0, that loudness is of, where they are not all. */
  readonly programme?: readonly number[]
  readonly others: readonly MixFacts[]
  /** Channels of which nothing says what mix they are of. */
  readonly untold: readonly number[]
  /**
   * Channels that carry data in the place of sound, from 0; the true peak is that of the others. `counted`: loudness
   * counts one of them, so that there are no figures of it.
   */
  readonly coded?: { readonly channels: readonly number[]; readonly counted: boolean }
}

/** Energy of a difference against that of what differs: 60 dB, which sums of 24 bits tell from nothing. */
const sameBy = 1e-6

const finite = (v: number | null) => (v !== null && Number.isFinite(v) ? v : null)

/** Puts a pair together from sums of left², left·right and right²; null where one of them is no channel. */
export function pairFactsOf(
  channels: readonly [number, number],
  sums: readonly [number, number, number] | null,
  samples: number,
): PairFacts {
  if (!sums) return { channels, correlation: null, alike: false }
  const [left, cross, right] = sums
  const both = Math.sqrt(left * right)
  return {
    channels,
    correlation: both > samples * 1e-8 ? cross / both : null,
    alike: left - 2 * cross + right <= sameBy * (left + right),
  }
}

/** Loudness and peaks as they are kept; peaks are linear. */
export function levelFactsOf(
  l: Loudness,
  truePeak: number,
  peaks: readonly number[],
): Omit<SoundFacts, 'pairs' | 'others' | 'untold'> {
  return {
    integrated: finite(l.integrated),
    range: finite(l.range),
    truePeak: finite(decibels(truePeak)),
    momentaryMax: finite(l.momentaryMax),
    shortTermMax: finite(l.shortTermMax),
    peaks: peaks.map((p) => finite(decibels(p))),
  }
}

/** Puts a mix beside the programme together. */
export const mixFactsOf = (channels: readonly number[], { integrated, momentaryMax }: Loudness): MixFacts => ({
  channels,
  integrated: finite(integrated),
  momentaryMax: finite(momentaryMax),
})
