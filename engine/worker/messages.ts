import type { Problem } from '../../core/problem'
import type { Root } from '../storage/roots'
import type { ServerAddress } from './joined/link'
import type { SourceRef } from './sources/source'

/** How a worker process is started: the pool puts this into VELVET_WORKER. */
export interface WorkerStart {
  readonly mode: 'work' | 'pictures'
  readonly id: string
  readonly data: string
  readonly roots: readonly Root[]
  readonly index: number
  /** Where the queue is that it works for; null where that is this machine's own. */
  readonly joined: JoinedMachine | null
}

/** A machine as it takes part in the work of another. */
export interface JoinedMachine {
  readonly server: ServerAddress
  /** What it is called there; its workers' names begin so. */
  readonly machine: string
  readonly installation: string
}

/** What a worker process says to its parent: that it is at work, how much memory it takes, or why it cannot be. */
export type WorkerNews =
  | { readonly ready: true }
  /** Bytes it has of the machine's memory. */
  | { readonly memory: number }
  | { readonly broke: string }

/** A frame of a source. */
export interface FrameRef {
  readonly source: SourceRef
  readonly frame: number
}

/** What is to be seen of a frame: itself, the waveform of its luma, or how far another one is from it. */
export type Look =
  /** At its own size, and nothing lost. */
  | { readonly as: 'exact' }
  | { readonly as: 'picture'; readonly width: number }
  | { readonly as: 'waveform' }
  | { readonly as: 'difference'; readonly from: FrameRef }

/** An image in a format browsers know, and what was measured of it. */
export interface Looked {
  readonly image: Uint8Array
  readonly figures?: Readonly<Record<string, number | boolean>>
}

/** A request to a pictures process, over the channel to its parent. */
export interface PictureRequest extends FrameRef {
  readonly id: number
  readonly look: Look
}
export type PictureAnswer =
  { readonly id: number; readonly looked: Looked } | { readonly id: number; readonly problem: Problem }
