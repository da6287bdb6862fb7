import type { WebCodecs } from '../../core/codec/web/webcodecs'
import type { ReportEntry } from '../../core/deliverable/report'
import type { FrozenDeliverable } from '../../core/deliverable/sheet'
import type { Problem } from '../../core/problem'
import type { FilePath } from '../../core/media/filepath'
import type { LookUpTable } from '../../core/picture/table/table'
import type { Claim, WorkerProfile, WorkQueue } from '../queue/port'
import type { ProofEnd } from '../storage/cache'
import type { Roots } from '../storage/roots'
import type { Facts } from './facts'
import type { SourceCache } from './sources/sourcecache'
import type { Proof } from '../../core/deliverable/proof'

/** A deliverable of a run as the report of its outlet sees it. */
export interface Sibling {
  /** Where its file is wanted. */
  readonly target: FilePath
  /** Its line in the report; null until a name is noted for its file. */
  readonly entry: ReportEntry | null
  readonly done: boolean
}

/** Frozen deliverables, and what becomes of them. */
export interface Sheets {
  frozen(deliverable: string): Promise<FrozenDeliverable | null>
  /** The name and proof that were noted for a deliverable before its file bore the name. */
  noted(deliverable: string): Promise<{ readonly path: string; readonly proof: Proof } | null>
  /** Notes a name and a proof, as long as the claim is held; throws ClaimLost when it is not. */
  note(claim: Claim, item: FrozenDeliverable, path: string, proof: Proof): Promise<void>
  /** Keeps a picture of a deliverable's proof, as JPEG; gives the name it is asked for by. */
  still(claim: Claim, end: ProofEnd, jpeg: Uint8Array): Promise<string>
  /** Deliverables of a run for an outlet, in the order of the run. */
  siblings(run: string, outlet: string): Promise<Sibling[]>
}

/** All that a worker sees of the world: none of it tells where the database is, or whether there is one. */
export interface WorkerPorts {
  readonly queue: WorkQueue
  /**
   * Whether a step that failed here is taken back by the machine that serves, to be tried there before it fails: what
   * is wrong may be this machine, or its way to the storage. Null on that machine itself.
   */
  readonly takenBack: ((claim: Claim, problem: Problem) => Promise<boolean>) | null
  readonly facts: Facts
  readonly sheets: Sheets
  /** A look-up table of the shelf by its id; throws a problem when it is not there. */
  readonly table: (id: string) => Promise<LookUpTable>
  readonly storage: Roots
  /** The folder of what can be made again: previews, traces. Steps that use it have {@link ownDisk} as a place. */
  readonly cache: string
  /** Whose scratch folders are used and cleared: this installation's alone. */
  readonly installation: string
  readonly codecs: WebCodecs | null
  readonly sources: SourceCache
}

export type { WorkerProfile }
