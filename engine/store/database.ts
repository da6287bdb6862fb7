import Libsql from 'libsql'
import {
  CompiledQuery,
  Kysely,
  SqliteAdapter,
  SqliteDialect,
  SqliteDriver,
  sql,
  type DatabaseConnection,
  type Generated,
  type Selectable,
  type SqliteDialectConfig,
} from 'kysely'
import { migrate } from './migrate'

/** JSON columns are text; `json` and `parse` go between. */
export interface Tables {
  timeline: {
    id: string
    show: string
    name: string
    root: string
    path: string
    cuts_path: string | null
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
    position: number
  }
  assignment: {
    timeline_id: string
    region_id: string
    outlet_id: string
    chosen: number
    overrides: string
    waivers: string
  }
  /** Facts worked out from media, by what they were worked out from. */
  fact: { key: string; value: string }
  run: {
    id: string
    name: string
    state: 'running' | 'paused' | 'stopped' | 'done'
    workers: number
    created: string
    finished: string | null
    sheet: string
  }
  item: {
    id: string
    run_id: string
    position: number
    state: 'waiting' | 'running' | 'done' | 'failed' | 'skipped'
    sheet: string
    /** Path below the root, once the file has its final name. */
    final_path: string | null
    result: string | null
    problem: string | null
    started: string | null
    finished: string | null
  }
  task: {
    id: Generated<number>
    run_id: string | null
    item_id: string | null
    key: string
    kind: string
    payload: string
    needs: string
    state: 'waiting' | 'ready' | 'leased' | 'done' | 'failed' | 'cancelled'
    owner: string | null
    lease_until: number
    attempts: number
    frames_done: number
    frames_total: number
    started: number | null
    finished: number | null
    result: string | null
    problem: string | null
  }
  setting: { key: string; value: string }
  /** A counter for each topic: whoever shows it reads again when it has moved. */
  pulse: { topic: string; n: number }
}

export type Db = Kysely<Tables>
export type TaskRow = Selectable<Tables['task']>
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

/** Opens the database in WAL mode; many processes may have it open. */
export async function openDatabase(file: string): Promise<Db> {
  const raw = new Libsql(file, { timeout: 15_000 } as never)
  raw.exec(
    'PRAGMA journal_mode = WAL; PRAGMA synchronous = NORMAL; PRAGMA busy_timeout = 15000; PRAGMA foreign_keys = ON',
  )
  const db = new Kysely<Tables>({ dialect: new WritingDialect({ database: raw as never }) })
  await migrate(db as Kysely<unknown>, file)
  return db
}

/** Topics of {@link Tables.pulse}. */
export type Topic = 'timelines' | 'split' | 'outlets' | 'facts' | 'run'

export async function bump(db: Db, topic: Topic): Promise<void> {
  await sql`insert into pulse (topic, n) values (${topic}, 1) on conflict (topic) do update set n = n + 1`.execute(db)
}

/** Reads a setting, or its default. */
export async function readSetting<T>(db: Db, key: string, otherwise: T): Promise<T> {
  const row = await db.selectFrom('setting').select('value').where('key', '=', key).executeTakeFirst()
  return row ? (JSON.parse(row.value) as T) : otherwise
}

export async function writeSetting(db: Db, key: string, value: unknown): Promise<void> {
  await db
    .insertInto('setting')
    .values({ key, value: JSON.stringify(value) })
    .onConflict((c) => c.column('key').doUpdateSet({ value: JSON.stringify(value) }))
    .execute()
}
