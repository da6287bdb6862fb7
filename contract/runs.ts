import { z } from 'zod'
import type { Proof } from '../core/deliverable/proof'
import type { FrozenDeliverable } from '../core/deliverable/sheet'
import type { Problem } from '../core/problem'
import type { Verdict } from '../core/spec/judge'
import type { Frames, Seconds } from '../core/time/rate'

/**
 * Freezes cleared deliverables (all, or those of `keys`) and starts the night; `anew`: no pictures are taken from
 * earlier files.
 */
export const runStartSchema = z.object({
  name: z.string().trim().min(1),
  workers: z.number().int().min(0).max(64),
  keys: z.array(z.string()).nullable(),
  anew: z.boolean().default(false),
})

/** Pause, resume, stop, remove; how many workers of this machine: none where machines that joined do it all. */
export const runChangeSchema = z.discriminatedUnion('action', [
  z.object({ action: z.enum(['resume', 'pause', 'stop', 'remove']) }),
  z.object({ action: z.literal('workers'), workers: z.number().int().min(0).max(64) }),
])

/** Skips a deliverable of a run, or runs it again. */
export const runDeliverableChangeSchema = z.object({ action: z.enum(['skip', 'again']) })

export type RunState = 'running' | 'paused' | 'stopped' | 'done'

/** A run in the list of all. */
export interface RunSummary {
  readonly id: string
  readonly name: string
  readonly state: RunState
  readonly created: string
  readonly done: number
  readonly total: number
}

/** The run that is looked at, of all, newest first: the one that goes on, by turns the oldest; else the newest. */
export const runToShow = <Run extends Pick<RunSummary, 'state'>>(runs: readonly Run[]): Run | undefined =>
  runs.findLast((r) => r.state === 'running') ?? runs[0]

/** A deliverable of a run as the list shows it. */
export interface RunDeliverable {
  readonly id: string
  readonly title: string
  readonly region: string
  readonly outlet: string
  readonly timeline: string
  readonly path: string
  readonly state: 'waiting' | 'running' | 'done' | 'failed' | 'skipped'
  readonly doing: string
  readonly framesDone: Frames
  readonly framesTotal: Frames
  readonly verdict: Verdict | null
  readonly problem: Problem | null
  readonly started: string | null
  readonly finished: string | null
  /** Seconds of work, forecast on one worker. */
  readonly seconds: Seconds
}

/** What a worker has in hand. */
export interface Lane {
  /** The machine that joined and that has it in hand; null for this one. */
  readonly machine: string | null
  /** Bytes of memory that the worker has; null where it did not say yet. */
  readonly memory: number | null
  readonly item: string
  readonly step: string
  readonly framesDone: Frames
  readonly framesTotal: Frames
  readonly since: number
}

/** A run as the Night run shows it. */
export interface RunView {
  readonly id: string
  readonly name: string
  readonly state: RunState
  readonly workers: number
  readonly created: string
  readonly finished: string | null
  readonly items: readonly RunDeliverable[]
  readonly lanes: readonly Lane[]
  readonly framesPerSecond: number
  readonly secondsLeft: number | null
}

/** A finished deliverable: as it was frozen, its proof, and its name. */
export interface Finished {
  readonly item: FrozenDeliverable
  readonly proof: Proof
  readonly path: string
  readonly finished: string
  readonly run: string
}

/** A finished file in the list of all. */
export interface FinishedSummary {
  readonly id: string
  readonly path: string
  readonly region: string
  readonly outletId: string
  readonly outlet: string
  readonly verdict: Verdict
  readonly bytes: number
  readonly finished: string
  /** Whether it is made to be looked at only: it is in no report. */
  readonly trial: boolean
}

/** A deliverable as it was frozen into a run, and what has changed at the stations since. */
export interface FrozenSince {
  readonly id: string
  /** Labels of its first and last frame. */
  readonly first: string
  readonly last: string
  readonly recipe: string
  /** Parts, see core/deliverable/identity.ts; none when it would be made just so now; null where it is no more. */
  readonly changed: readonly string[] | null
}
