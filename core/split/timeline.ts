import type { Fingerprint } from '../media/fingerprint'
import type { FilePath } from '../media/filepath'
import type { MediaInfo } from '../media/media'
import type { Problem } from '../problem'
import type { FrozenAssembly } from '../timeline/assembly/assembly'
import type { LinkChoices, Source } from '../timeline/link/source'
import type { Frames } from '../time/rate'
import type { Timeline } from '../timeline/model'
import type { Split } from './region'

/** How a timeline of many sources is linked to its media. */
export interface Linking {
  readonly assembly: FrozenAssembly
  /** What each source of the assembly is. */
  readonly infos: readonly MediaInfo[]
  readonly sources: readonly Source[]
  readonly choices: LinkChoices
}

/** A timeline brought in: what was understood, the media it lies in, and how it is split. */
export interface SplitTimeline {
  readonly id: string
  readonly show: string
  readonly name: string
  /** The flattened file, or the interchange file of a timeline of many sources. */
  readonly file: FilePath
  /** The list that gave a flattened file its cuts. */
  readonly cuts: FilePath | null
  /** How far its cuts were moved from where the list has them. */
  readonly cutsOffset: Frames
  /** Null for a flattened file. */
  readonly linking: Linking | null
  readonly fingerprint: Fingerprint
  readonly info: MediaInfo
  readonly model: Timeline
  readonly problems: readonly Problem[]
  readonly split: Split
  readonly splitVersion: number
}
