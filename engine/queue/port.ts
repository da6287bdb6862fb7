import type { Problem } from '../../core/problem'
import type { Frames } from '../../core/time/rate'

/** Work to be done once everything it needs is done. */
export interface OfferedStep {
  /** Null for background work. */
  readonly run: string | null
  readonly deliverable: string | null
  /** Its name: within a deliverable, or of background work as a whole. */
  readonly key: string
  readonly kind: string
  readonly payload: unknown
  /** Steps of the same offer or of the same run: `deliverable/key`, or a key of the same deliverable. */
  readonly needs: readonly string[]
  /** What a worker must be able to do: `decode:h264`. */
  readonly abilities: readonly string[]
  /** What it reads and writes, as {@link reads}, {@link writes} and {@link ownDisk} name it. */
  readonly places: readonly string[]
  /** Steps of a run with the same mark read the same pictures, and are best taken together. */
  readonly shares?: string | null
  readonly frames: Frames
  /** Place within the run. */
  readonly position: number
  /** Background work that takes long, so that one worker stays free of it: before a night's work, or after it. */
  readonly long?: 'before' | 'after'
}

/** Who asks for work. */
export interface WorkerProfile {
  /** Its own alone, on whatever machine it is. */
  readonly id: string
  /** From 0: a run with n workers gives work to those below n. Workers of machines that joined are not counted: -1. */
  readonly index: number
  readonly abilities: readonly string[]
  /** The places it sees; null for a worker of the machine that serves: what is away there is waited for. */
  readonly places: readonly string[] | null
}

/** Places of steps: a storage root to be read, or written to as well. */
export const reads = (root: string) => `read:${root}`
export const writes = (root: string) => `write:${root}`
/** The place of what a step keeps on the disk of the machine that serves. */
export const ownDisk = 'own-disk'

/** A step in a worker's hands. Everything done with it names its fence; who holds an older one has lost it. */
export interface Claim {
  readonly step: number
  readonly fence: number
  readonly worker: string
  readonly run: string | null
  readonly deliverable: string | null
  readonly key: string
  readonly kind: string
  readonly payload: unknown
  readonly frames: Frames
  /** Whether a worker that had it before may still be writing somewhere. */
  readonly takenOver: boolean
  /** How often it was set aside before. */
  readonly stumbles: number
  readonly shares: string | null
  /** Steps taken together, this one counted: each had its part of their time. */
  readonly together: number
}

/** A step that waits for storage roots. */
export interface AsideStep {
  readonly step: number
  readonly roots: readonly string[]
  readonly problem: Problem
}

/** Thrown when a claim is not held any more: the step was stopped, skipped, or given to another worker. */
export class ClaimLost extends Error {}

/** How often a worker renews what it holds, ms. */
export const renewEvery = 2_000
/** How long a claim that is not renewed is still believed in, ms of whoever looks. */
export const believedFor = 20_000
/** How many workers a step may take down before it fails. */
export const mostLost = 4

/**
 * What workers ask of a queue. Any number of processes or machines may ask; what must hold between them is kept there:
 * a step is held by one worker at a time, and only who holds it can say that it is done.
 */
export interface WorkQueue {
  offer(steps: readonly OfferedStep[]): Promise<void>
  /** The next step this worker can do, or null. */
  claim(worker: WorkerProfile): Promise<Claim | null>
  /** Other steps that share what a claimed one reads, claimed with it; all of them with it count as together. */
  companions(claim: Claim, worker: WorkerProfile): Promise<Claim[]>
  /** Says that the worker is healthy and how far it is. Throws {@link ClaimLost}. */
  renew(claim: Claim, framesDone: Frames): Promise<void>
  /** What the steps that this one needed have given, by key. */
  results(claim: Claim): Promise<ReadonlyMap<string, unknown>>
  /** Takes a step's result; what needed it becomes ready; the last step ends its deliverable. Throws ClaimLost. */
  finish(claim: Claim, result: unknown): Promise<void>
  /** Takes a failure: the deliverable fails with what needs it, everything else goes on. Throws ClaimLost. */
  fail(claim: Claim, problem: Problem): Promise<void>
  /** Gives a step back undone, to be done by whoever asks next. */
  release(claim: Claim): Promise<void>
  /** Sets a step aside until storage roots are back. */
  setAside(claim: Claim, roots: readonly string[], problem: Problem): Promise<void>
  /** Gives back what a worker held that is known to be gone; a step that takes worker after worker down fails. */
  abandon(worker: string): Promise<void>
}

/** Hands out steps, and is looked after by the session whose it is. */
export interface Queue extends WorkQueue {
  /**
   * Takes a step back that failed on another machine, to be tried once more by workers of this one; false where its run
   * has none, or it is not held any more.
   */
  takeBack(claim: Claim): Promise<boolean>
  /** A claim as it is kept, by its step, fence and worker. Throws {@link ClaimLost} when it is not held any more. */
  held(claim: Pick<Claim, 'step' | 'fence' | 'worker'>): Promise<Claim>
  /** Steps that are set aside. */
  aside(): Promise<AsideStep[]>
  /** Lets a step that was set aside go on. */
  takeUp(step: number): Promise<void>
  /** Fails a step that was set aside for too long. */
  giveUp(step: number, problem: Problem): Promise<void>
  /**
   * Gives back everything that is held by workers whose name begins so: those of an earlier session, or of a machine
   * that leaves. No step is to blame for that.
   */
  reclaim(workers: string): Promise<void>
}
