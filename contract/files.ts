import { z } from 'zod'
import type { FilePath } from '../core/media/filepath'
import type { Problem } from '../core/problem'

/** What is in a folder of a storage root. */
export interface Entry {
  readonly name: string
  readonly path: string
  readonly folder: boolean
  readonly size: number
  readonly modified: number
}

/** A storage root, the bytes that are free on it, and what is wrong when it is away. */
export interface StorageRoot {
  readonly name: string
  readonly path: string
  readonly free: number
  readonly away: Problem | null
}

/** The storage roots, or what is in a folder of one. */
export interface Folder {
  readonly roots: readonly StorageRoot[]
  readonly entries: readonly Entry[]
}

/** Watches a folder for new timelines, or none any more. */
export const watchSchema = z.object({
  folder: z.object({ root: z.string(), path: z.string().max(4096) }).nullable(),
})

export interface WatchState {
  readonly folder: FilePath | null
  /** Files that could not be brought in, newest last. */
  readonly problems: readonly { readonly file: string; readonly problem: Problem }[]
}
