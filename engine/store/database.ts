import Libsql from 'libsql'
import { LRUCache } from 'lru-cache'
import {
  CompiledQuery,
  Kysely,
  SqliteAdapter,
  SqliteDialect,
  SqliteDriver,
  type DatabaseConnection,
  type Generated,
  type Selectable,
  type SqliteDialectConfig,
} from 'kysely'
import type { Seconds } from '../../core/time/rate'
import { migrate } from './migrate'

/** JSON columns are text; what is in them is read and written through `stored.ts`. */
export interface Tables {
  pace: { key: string; frames: number; seconds: number }
  timeline: {
    id: string
    show: string
    name: string
    root: string
    path: string
    cuts_path: string | null
    cuts_offset: Generated<number>
    /** Links of a timeline of many sources; null for a flattened file. */
    linking: string | null
    fingerprint: string
    info: string
    model: string
    problems: string
    split: string
    split_version: number
    created: string
  }
  outlet: {
    id: string
    name: string
    recipe: string
    spec: string
    pattern: string
    root: string
    folder: string
    kinds: string | null
    checksums: string | null
    position: number
  }
  /** What a person decided of a region for an outlet. */
  choice: {
    timeline_id: string
    region_id: string
    outlet_id: string
    chosen: number
    overrides: string
    waivers: string
  }
  /** Facts worked out from media, by what they were worked out from. */
  fact: { key: string; value: string }
  look_up_table: { id: string; name: string; shape: string; text: string }
  run: {
    id: string
    name: string
    state: 'running' | 'paused' | 'stopped' | 'done'
    workers: number
    created: string
    finished: string | null
    sheet: string
  }
  /** A deliverable of a run; what lists show stands in columns, so that they read no JSON. */
  deliverable: {
    id: string
    run_id: string
    position: number
    state: 'waiting' | 'running' | 'done' | 'failed' | 'skipped'
    /** It as it was frozen. */
    sheet: string
    title: string
    region: string
    outlet: string
    outlet_id: string
    timeline: string
    root: string
    /** A sum of what makes it the same as another; null where an earlier edition froze it. */
    identity: string | null
    /** Path below the root that was wanted. */
    target: string
    frames: number
    /** Seconds of work, forecast on one worker. */
    seconds: Seconds
    verdict: string | null
    /** Path below the root, once the file has its final name. */
    final_path: string | null
    /** Its proof. */
    result: string | null
    /** Size of the file that was asked for, once it has its final name. */
    bytes: Generated<number>
    /** 1 when it is made to be looked at only. */
    trial: Generated<number>
    /** Its line in the report; none of a trial. */
    report: Generated<string | null>
    problem: string | null
    started: string | null
    finished: string | null
  }
  step: {
    id: Generated<number>
    run_id: string | null
    deliverable_id: string | null
    key: string
    kind: string
    payload: string
    abilities: string
    places: string
    /** `aside`: a storage root that it needs is away. */
    state: 'waiting' | 'ready' | 'claimed' | 'aside' | 'done' | 'failed' | 'cancelled'
    worker: string | null
    /** Counts claims: whoever names an older one has lost the step. */
    fence: number
    /** Moves as long as the worker is healthy. */
    beat: number
    /** Workers it was taken from. */
    lost: number
    /** 1 when it was taken out of hands that may still be writing. */
    interrupted: number
    /** The storage roots that it is set aside for. */
    aside_for: Generated<string | null>
    /** How often it was. */
    stumbles: Generated<number>
    /** What it reads with others of its run; null when nothing. */
    shares: Generated<string | null>
    class: number
    run_order: string
    position: number
    frames_done: number
    frames_total: number
    started: number | null
    finished: number | null
    result: string | null
    problem: string | null
  }
  step_need: { step_id: number; need_id: number }
  setting: { key: string; value: string }
  /** What changed, in order: whoever shows it reads on from where it was. */
  change: { id: Generated<number>; topic: string; key: string }
}

export type Db = Kysely<Tables>
export type StepRow = Selectable<Tables['step']>
export type DeliverableRow = Selectable<Tables['deliverable']>
export type RunRow = Selectable<Tables['run']>
export type TimelineRow = Selectable<Tables['timeline']>

/**
 * Transactions that take the right to write as they begin. One that begins by reading could not write any more once
 * another process has written in between: SQLite refuses it at once (SQLITE_BUSY_SNAPSHOT), without waiting.
 */
class WritingDriver extends SqliteDriver {
  override async beginTransaction(connection: DatabaseConnection): Promise<void> {
    await connection.executeQuery(CompiledQuery.raw('begin immediate'))
  }
}

class WritingDialect extends SqliteDialect {
  constructor(private readonly config: SqliteDialectConfig) {
    super(config)
  }

  override createDriver(): SqliteDriver {
    return new WritingDriver(this.config)
  }

  override createAdapter(): SqliteAdapter {
    return new WritingAdapter()
  }
}

/** Tables are changed within a transaction, so that processes that open a database at once do not meet half of it. */
class WritingAdapter extends SqliteAdapter {
  override get supportsTransactionalDdl(): boolean {
    return true
  }
}

/** Opens the database in WAL mode; many processes may have it open. What was answered as saved is on the disk. */
export async function openDatabase(file: string): Promise<Db> {
  const raw = new Libsql(file, { timeout: 15_000 } as never)
  raw.exec(
    'PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL; PRAGMA busy_timeout = 15000; PRAGMA foreign_keys = ON',
  )
  // a statement made anew for every query holds its memory until the collector comes, and costs more than it does
  const statements = new LRUCache<string, ReturnType<typeof raw.prepare>>({ max: 300 })
  const prepare = (text: string) => {
    const statement = statements.get(text) ?? raw.prepare(text)
    statements.set(text, statement)
    return statement
  }
  const database = { prepare, close: () => void raw.close() }
  const db = new Kysely<Tables>({ dialect: new WritingDialect({ database: database as never }) })
  await migrate(db as Kysely<unknown>, file)
  statements.clear()
  return db
}
