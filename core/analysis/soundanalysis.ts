import type { ChannelDamage } from './soundfaults'
import type { SoundFacts } from './soundfacts'
import type { SoundTrouble } from './soundstretches'
import type { SoundShape } from './soundtrace'

/**
 * Sound of a whole timeline, for the ribbon: short-term loudness of each tenth of a second (null for silence), and its
 * facts.
 */
export interface SoundAnalysis {
  readonly ribbon: readonly (number | null)[]
  /** Momentary loudness of the 400 ms up to each tenth of a second. */
  readonly momentary: readonly (number | null)[]
  readonly facts: SoundFacts
  readonly faults: SoundTrouble
  /** What the kept traces are of, and damage to the sample: for readings of regions. */
  readonly shape: SoundShape
  readonly damage: readonly ChannelDamage[]
  /** Channels that could not be read, and are silent in all of this; absent where there are none. */
  readonly closed?: readonly number[]
}
