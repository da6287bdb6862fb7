import { sql, type Kysely } from 'kysely'

/** The first edition's tables. Its databases are there already: nothing in them is made twice. */
export async function up(db: Kysely<unknown>): Promise<void> {
  for (const statement of statements) await sql.raw(statement).execute(db)
  const columns = await sql<{ name: string }>`pragma table_info(timeline)`.execute(db)
  if (!columns.rows.some((c) => c.name === 'linking'))
    await sql`alter table timeline add column linking text`.execute(db)
}

const statements = [
  `create table if not exists timeline (
    id text primary key, show text not null, name text not null, root text not null, path text not null,
    cuts_path text, stamp text not null, info text not null, model text not null, problems text not null,
    split text not null, split_version integer not null, created text not null)`,
  `create table if not exists outlet (
    id text primary key, name text not null, recipe text not null, spec text not null, pattern text not null,
    root text not null, folder text not null, position integer not null)`,
  `create table if not exists assignment (
    timeline_id text not null references timeline(id) on delete cascade, region_id text not null,
    outlet_id text not null references outlet(id) on delete cascade, chosen integer not null,
    overrides text not null, waivers text not null, primary key (timeline_id, region_id, outlet_id))`,
  `create table if not exists fact (key text primary key, value text not null)`,
  `create table if not exists run (
    id text primary key, name text not null, state text not null, workers integer not null, created text not null,
    finished text, sheet text not null)`,
  `create table if not exists item (
    id text primary key, run_id text not null references run(id) on delete cascade, position integer not null,
    state text not null, sheet text not null, final_path text, result text, problem text, started text,
    finished text)`,
  `create table if not exists task (
    id integer primary key autoincrement, run_id text references run(id) on delete cascade,
    item_id text references item(id) on delete cascade, key text not null, kind text not null,
    payload text not null, needs text not null, state text not null, owner text, lease_until integer not null,
    attempts integer not null, frames_done integer not null, frames_total integer not null, started integer,
    finished integer, result text, problem text)`,
  `create index if not exists task_by_state on task (state, id)`,
  `create index if not exists task_by_item on task (item_id)`,
  `create index if not exists item_by_run on item (run_id, position)`,
  `create table if not exists setting (key text primary key, value text not null)`,
  `create table if not exists pulse (topic text primary key, n integer not null)`,
]
