import type { Shot, Timeline } from '../../timeline/model'
import type { FrameRange } from '../../time/range'
import type { Frames } from '../../time/rate'

/** A range of a timeline with the name its region will have. */
export interface NamedRange extends FrameRange {
  readonly name: string
  /** Programme metadata that a list gave. */
  readonly metadata?: Readonly<Record<string, string>>
  /** Names of the outlets that a list sends it to; absent where the list says nothing of it. */
  readonly outlets?: readonly string[]
  /** Chapters that a list gave, in frames of the timeline. */
  readonly chapters?: readonly { readonly at: Frames; readonly name: string }[]
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
  /** A pasted or opened list, and what it is called. */
  readonly list?: { readonly text: string; readonly fileName: string }
}

/** A way to make regions. */
export interface SplitMaker {
  readonly name: string
  readonly label: string
  /** The regions it would make; none when it has nothing to work from. Throws a problem for bad input. */
  make(request: MakeRequest): readonly NamedRange[]
}
