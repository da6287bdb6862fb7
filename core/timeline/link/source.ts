import type { MediaInfo } from '../../media/media'
import type { Problem } from '../../problem'
import type { FrameRange } from '../../time/range'
import type { Frames } from '../../time/rate'
import type { Clip } from '../model'

// What clips of a timeline name the same source, and what was found for them.

/** A media file that clips may come from. */
export interface MediaFile {
  readonly root: string
  readonly path: string
}

/**
 * Where a clip's frames are: media frame = source frame − offset, at the source's rate; by time where the media runs at
 * another.
 */
export interface Link {
  readonly file: MediaFile
  readonly offset: Frames
}

/** Troubles of a link; `linked` is none. Any but `missing` still has a file. */
export type LinkState =
  'linked' | 'ambiguous' | 'twice' | 'short' | 'rate' | 'raster' | 'sound-rate' | 'missing' | 'replaced'

/** Clips that name the same source, and what was found for them. */
export interface Source {
  /** Names the clips have in common; also what a choice is kept under. */
  readonly key: string
  readonly name: string
  readonly reel: string
  readonly file: string | null
  /** Indexes of the events that take from it, as themselves or as the outgoing side of their transition. */
  readonly events: readonly number[]
  readonly state: LinkState
  readonly linked: MediaFile | null
  /** Every file that could be meant, best first. */
  readonly candidates: readonly MediaFile[]
  /** What was looked for, in words. */
  readonly lookedFor: string
  readonly problem: Problem | null
}

export interface Linking {
  /** Beside each event: its own link, and that of its transition's outgoing clip. */
  readonly links: readonly { readonly clip: Link | null; readonly outgoing: Link | null }[]
  readonly sources: readonly Source[]
}

/** What a person chose: files for sources by key, and folders to look into first. */
export interface LinkChoices {
  readonly files: Readonly<Record<string, MediaFile>>
  readonly folders: readonly MediaFile[]
}

export const noChoices: LinkChoices = { files: {}, folders: [] }

/** One place where a source is used: an event's own clip, or the outgoing side of its transition. */
export interface Use {
  readonly event: number
  readonly clip: Clip
  readonly range: FrameRange
  readonly outgoing: boolean
  readonly kind: 'video' | 'audio'
}

/** A file that may be a source; rank −1 was chosen by a person, else how well its name answers. */
export interface Usable {
  readonly file: MediaFile
  readonly rank: number
  readonly info: MediaInfo
}

/** The file for each use of a source. */
export interface Choice {
  /** Beside each use. */
  readonly links: readonly Link[]
  /** The file of the first use. */
  readonly used: Usable
  /** The most frames that a use lacks. */
  readonly short: Frames
  /** Whether another file would have done as well. */
  readonly ambiguous: boolean
  /** Whether the file counts what a use takes in two places, of which the first is taken. */
  readonly twice: boolean
}

/** Tells what a file is, or null. */
export type Probe = (file: MediaFile) => Promise<MediaInfo | null>
