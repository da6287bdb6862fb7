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

/** What tells files apart. */
export const fileKey = ({ root, path }: MediaFile) => `${root}\0${path}`

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
  | 'linked'
  | 'ambiguous'
  | 'some-channels'
  | 'twice'
  | 'short'
  | 'rate'
  | 'raster'
  | 'sound-rate'
  | 'unheard'
  | 'channels'
  | 'missing'
  | 'replaced'

/** Troubles that somebody should look at, and nobody needs to accept. */
export const isCaution = (state: LinkState) => state === 'ambiguous' || state === 'some-channels'

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
  /**
   * All that is wrong with it, the gravest first, which is its state; absent where nothing is, or an earlier edition
   * linked it.
   */
  readonly troubles?: readonly SourceTrouble[]
}

/** Something that is wrong with a source, and the events that take from what it is wrong with. */
export interface SourceTrouble {
  readonly state: LinkState
  readonly problem: Problem
  readonly events: readonly number[]
}

/** All that is wrong with a source, the gravest first. */
export const troublesIn = ({ troubles, state, problem, events }: Source): readonly SourceTrouble[] =>
  troubles ?? (problem ? [{ state, problem, events }] : [])
export const problemsOf = (s: Source): Problem[] => troublesIn(s).map((t) => t.problem)

/** A source by what is wrong with it. */
export const troubled = (
  s: Omit<Source, 'state' | 'problem' | 'troubles'>,
  troubles: readonly SourceTrouble[],
): Source => {
  const [first] = troubles
  return first
    ? { ...s, state: first.state, problem: first.problem, troubles }
    : { ...s, state: 'linked', problem: null }
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

/** A use of a source with the file that serves it. */
export interface Placed extends Use {
  readonly link: Link
  readonly info: MediaInfo
  /** Frames of it that the file lacks. */
  readonly lacking: Frames
  /** Whether the file counts what it takes in two places, of which the first is taken. */
  readonly twice: boolean
}

/** A file that may be a source; rank −1 was chosen by a person, else how well its name answers. */
export interface Usable {
  readonly file: MediaFile
  readonly rank: number
  readonly info: MediaInfo
}

/** Tells what a file is, or null. */
export type Probe = (file: MediaFile) => Promise<MediaInfo | null>
