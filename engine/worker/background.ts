import type { FrozenDeliverable } from '../../core/deliverable/sheet'
import type { Downmix } from '../../core/sound/downmix'
import type { FrameRange } from '../../core/time/range'
import type { Frames, Rate } from '../../core/time/rate'
import { ownDisk, type OfferedStep } from '../queue/port'
import type { ExpectedSum } from '../storage/listedsums'
import type { StepContext } from './context'
import type { SourceRef } from './sources/source'

/** What background work is about. */
export interface BackgroundPayload {
  /** The key of the fact it works out. */
  readonly fact: string
  /** The source; one of many files has its assembly kept as a fact. */
  readonly source: Omit<SourceRef, 'assembly'> & { readonly assembled?: boolean }
  readonly range?: FrameRange
  /** What a file shows of its timeline, in order. */
  readonly ranges?: readonly FrameRange[]
  /** Frames of silence between each two of them. */
  readonly pause?: Frames
  readonly rate?: Rate
  readonly route?: readonly number[]
  /** What the channels of the route are heard as; by their number when absent. */
  readonly layout?: string | null
  /** What these are brought together to before they are heard. */
  readonly downmix?: Downmix
  /** An older timeline that its pictures are held against, and the frames of that. */
  readonly against?: { readonly older: BackgroundPayload['source']; readonly frames: Frames }
  /** Frames of all segments of a pass. */
  readonly frames?: number
  /** Sums that lists have of it. */
  readonly listed?: readonly ExpectedSum[]
  /** What is made of a stretch with settings that are tried. */
  readonly item?: FrozenDeliverable
}

export interface BackgroundStep extends StepContext {
  readonly payload: BackgroundPayload
  readonly ref: SourceRef
}

/** Background work as the queue takes it: under the key of the fact it works out. */
export function backgroundOffer(
  kind: string,
  payload: BackgroundPayload,
  frames: Frames,
  long?: OfferedStep['long'],
): OfferedStep {
  return {
    run: null,
    deliverable: null,
    key: payload.fact,
    kind,
    payload,
    needs: [],
    abilities: [],
    places: [ownDisk],
    frames,
    position: 0,
    ...(long ? { long } : {}),
  }
}
