import type { Problem } from '../../core/problem'
import type { Root } from '../storage/roots'
import type { SourceRef } from './source'

/** How a worker process is started: the pool puts this into VELVET_WORKER. */
export interface WorkerStart {
  readonly mode: 'work' | 'pictures'
  readonly id: string
  readonly data: string
  readonly roots: readonly Root[]
  readonly index: number
}

/** What a worker process says to its parent: that it is at work, or why it cannot be. */
export type WorkerNews = { readonly ready: true } | { readonly broke: string }

/** A request to a pictures process, over the channel to its parent. */
export interface PictureRequest {
  readonly id: number
  readonly source: SourceRef
  readonly frame: number
  readonly width: number
}
export type PictureAnswer =
  { readonly id: number; readonly jpeg: Uint8Array } | { readonly id: number; readonly problem: Problem }
