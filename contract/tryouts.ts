import { z } from 'zod'
import type { TriedPictures } from '../core/deliverable/tryout'
import { deliverableKeySchema } from '../core/deliverable/outlet'
import type { Problem } from '../core/problem'
import type { Output } from '../core/recipe/output'
import { overridesSchema } from '../core/recipe/registry'
import type { Frames, Seconds } from '../core/time/rate'

const frame = z.number().int().min(0)

/** Has a stretch of a region made as its outlet would get it, with these values in place of its recipe's. */
export const tryoutSchema = deliverableKeySchema.extend({ in: frame, out: frame, values: overridesSchema })

/** A stretch that was asked for: what it will be. */
export interface Tryout {
  /** What it is asked for by; null where it cannot be made. */
  readonly id: string | null
  /** Frames of the timeline that it is of. */
  readonly in: Frames
  readonly out: Frames
  readonly output: Output
}

/** How far a stretch is, and what came of it. */
export interface TryoutState {
  /** `gone`: it was stopped, or cleared away since. */
  readonly state: 'waiting' | 'making' | 'made' | 'failed' | 'gone'
  /** 0 … 1 while it is being made. */
  readonly share: number
  readonly problem: Problem | null
  readonly made: { readonly bytes: number; readonly seconds: Seconds; readonly pictures: TriedPictures } | null
}
