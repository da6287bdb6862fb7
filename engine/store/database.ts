import Libsql from 'libsql'
import {
  CompiledQuery,
  Kysely,
  SqliteDialect,
  SqliteDriver,
  sql,
  type DatabaseConnection,
  type Generated,
  type Selectable,
  type SqliteDialectConfig,
} from 'kysely'

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
    stamp: string
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
}

/** Opens the database in WAL mode; many processes may have it open. */
export async function openDatabase(file: string): Promise<Db> {
  const raw = new Libsql(file, { timeout: 15_000 } as never)
  raw.exec(
    'PRAGMA journal_mode = WAL; PRAGMA synchronous = NORMAL; PRAGMA busy_timeout = 15000; PRAGMA foreign_keys = ON',
  )
  const db = new Kysely<Tables>({ dialect: new WritingDialect({ database: raw as never }) })
  await migrate(db)
  return db
}

async function migrate(db: Db): Promise<void> {
  for (const statement of [
    `create table if not exists timeline (id text primary key, show text not null, name text not null, root text not null, path text not null, cuts_path text, stamp text not null, info text not null,
      model text not null, problems text not null, split text not null, split_version integer not null, created text not null)`,
    `create table if not exists outlet (id text primary key, name text not null, recipe text not null, spec text not null, pattern text not null, root text not null, folder text not null, position integer not null)`,
    `create table if not exists assignment (timeline_id text not null references timeline(id) on delete cascade, region_id text not null, outlet_id text not null references outlet(id) on delete cascade,
      chosen integer not null, overrides text not null, waivers text not null, primary key (timeline_id, region_id, outlet_id))`,
    `create table if not exists fact (key text primary key, value text not null)`,
    `create table if not exists run (id text primary key, name text not null, state text not null, workers integer not null, created text not null, finished text, sheet text not null)`,
    `create table if not exists item (id text primary key, run_id text not null references run(id) on delete cascade, position integer not null, state text not null, sheet text not null, final_path text, result text, problem text,
      started text, finished text)`,
    `create table if not exists task (id integer primary key autoincrement, run_id text references run(id) on delete cascade, item_id text references item(id) on delete cascade, key text not null, kind text not null, payload text not null,
      needs text not null, state text not null, owner text, lease_until integer not null, attempts integer not null, frames_done integer not null, frames_total integer not null, started integer, finished integer,
      result text, problem text)`,
    `create index if not exists task_by_state on task (state, id)`,
    `create index if not exists task_by_item on task (item_id)`,
    `create index if not exists item_by_run on item (run_id, position)`,
    `create table if not exists setting (key text primary key, value text not null)`,
    `create table if not exists pulse (topic text primary key, n integer not null)`,
  ])
    await sql.raw(statement).execute(db)
  const columns = await sql<{ name: string }>`pragma table_info(timeline)`.execute(db)
  if (!columns.rows.some((c) => c.name === 'linking'))
    await sql`alter table timeline add column linking text`.execute(db)
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
