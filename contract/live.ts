import type { Patch } from '../core/split/patch'
import type { DeliverableSummary } from './deliverables'
import type { FinishedSummary, Lane, RunDeliverable, RunState } from './runs'

/** Background work on the media of a content. */
export interface BackgroundWork {
  /** The content of the media's fingerprint. */
  readonly content: string
  readonly kind: string
  /** Frames that are still to be done. */
  readonly left: number
  readonly failed: boolean
}

/** Deliverables that are not what they were at an earlier revision. */
export interface DeliverableChanges {
  /** Grows with every change that this server sees. */
  readonly revision: number
  readonly changed: readonly DeliverableSummary[]
  /** Keys, as `timeline/region/outlet`. */
  readonly removed: readonly string[]
}

/** Every deliverable, as it was at a revision. */
export interface DeliverableList {
  readonly revision: number
  readonly list: readonly DeliverableSummary[]
}

/** How a run goes: the whole in figures, and the deliverables that moved. */
export interface RunPulse {
  readonly id: string
  readonly state: RunState
  readonly workers: number
  readonly finished: string | null
  readonly lanes: readonly Lane[]
  readonly framesPerSecond: number
  readonly secondsLeft: number | null
  readonly items: readonly RunDeliverable[]
}

/** What a page is told as it happens. */
export type LiveEvent =
  | { readonly type: 'hello' }
  /** Timelines that are there now, are gone, or are known better: to be asked for again, those that are shown. */
  | { readonly type: 'timelines'; readonly ids: readonly string[] }
  | { readonly type: 'split'; readonly id: string; readonly version: number; readonly patch: Patch }
  | { readonly type: 'shelf' }
  | ({ readonly type: 'deliverables' } & DeliverableChanges)
  | { readonly type: 'background'; readonly work: readonly BackgroundWork[] }
  | { readonly type: 'runs' }
  | ({ readonly type: 'run' } & RunPulse)
  | { readonly type: 'handover'; readonly finished: readonly FinishedSummary[] }
