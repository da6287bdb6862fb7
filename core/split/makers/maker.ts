import type { PictureFacts } from '../../analysis/pictures'
import type { SamePictures } from '../../analysis/samepictures'
import type { SoundAnalysis } from '../../analysis/soundanalysis'
import type { Shot, Timeline } from '../../timeline/model'
import type { FrameRange } from '../../time/range'
import type { Frames } from '../../time/rate'
import type { KindOfRegion } from '../kinds'
import type { Marker, Region, RegionRef, Split } from '../region'
import { settled, type Settings, type Values } from '../settings'

/** A range of a timeline with the name its region will have. */
export interface NamedRange extends FrameRange {
  readonly name: string
  readonly kind?: KindOfRegion
  /** Programme metadata that a list gave. */
  readonly metadata?: Readonly<Record<string, string>>
  /** Names of the outlets that a list sends it to; absent where the list says nothing of it. */
  readonly outlets?: readonly string[]
  /** Chapters that a list gave, in frames of the timeline. */
  readonly chapters?: readonly { readonly at: Frames; readonly name: string }[]
  /** Why a person should look at it before it is made, in words. */
  readonly doubt?: string
  /** The region of an older version that it follows, and which one that is. */
  readonly follows?: Region
  readonly from?: RegionRef
}

/** Another timeline whose regions are taken over, and who receives each of them. */
export interface OlderVersion {
  readonly id: string
  readonly timeline: Timeline
  readonly split: Split
  /** Names of outlets by the region's id. */
  readonly outlets: ReadonlyMap<string, readonly string[]>
  /** Which pictures are which, where not both have a list; null while that is not known. */
  readonly same?: SamePictures | null
}

/** What a way to split can work from. */
export interface MakeRequest {
  readonly timeline: Timeline
  /** Its shots, with the cuts that were found in its pictures. */
  readonly shots?: readonly Shot[]
  readonly playhead?: Frames
  readonly marked?: FrameRange | null
  /** Indexes of shots that were chosen. */
  readonly chosen?: readonly number[]
  /** Chapter markers as they are set now. */
  readonly markers?: readonly Marker[]
  /** The region in hand. */
  readonly region?: NamedRange | null
  /** What was found in its pictures and its sound; null while they have not been looked through. */
  readonly pictures?: PictureFacts | null
  readonly sound?: Pick<SoundAnalysis, 'faults' | 'momentary'> | null
  /** Whether its media has no sound at all. */
  readonly mute?: boolean
  /** An opened list, and what it is called. */
  readonly list?: { readonly text: string; readonly fileName: string } | null
  readonly older?: OlderVersion | null
}

/** What of a timeline's media must have been looked through. */
export type Needed = 'pictures' | 'sound'

/** A way to make regions. */
export interface SplitMaker {
  readonly name: string
  readonly label: string
  /** When it is the right one, in a sentence. */
  readonly hint: string
  /** What can be set of it, in the order it is asked. */
  readonly settings?: Settings
  /** The pattern of names, where it has none of its own. */
  readonly names?: string
  /** Told of all settings, as they are set or as they are at first. */
  readonly needs?: (timeline: Timeline, values: Readonly<Record<string, number | string>>) => readonly Needed[]
  /** The regions it would make; none when it has nothing to work from. Throws a problem for bad input. */
  make(request: MakeRequest, values: Readonly<Record<string, number | string>>): readonly NamedRange[]
  /** What it should have made a region of and could not, and why: to be placed by hand. */
  lost?(request: MakeRequest): readonly { readonly name: string; readonly why: string }[]
}

/** A way to make regions that has settings: what is not set of them is as it is at first. */
export function withSettings<S extends Settings>(
  maker: Omit<SplitMaker, 'settings' | 'make'> & {
    readonly settings: S
    make(request: MakeRequest, values: Values<S>): readonly NamedRange[]
  },
): SplitMaker {
  return { ...maker, make: (request, values) => maker.make(request, settled(maker.settings, values, request.timeline)) }
}
