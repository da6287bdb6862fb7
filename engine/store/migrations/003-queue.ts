import { sql, type Kysely } from 'kysely'

/**
 * The queue behind a port: steps with fences instead of leases by the clock, needs as rows, what lists show in columns
 * of its own. Deliverables that an earlier edition froze keep their proof; those not finished are to be frozen anew.
 */
export async function up(db: Kysely<unknown>): Promise<void> {
  for (const statement of statements) await sql.raw(statement).execute(db)
  await listCodecs(db)
  const rows = await sql<Row>`select id, state, sheet, result from deliverable`.execute(db)
  for (const row of rows.rows) await freezeAgain(db, row)
  await sql`update run set state = 'done' where state in ('running', 'paused', 'stopped')
    and not exists (select 1 from deliverable where run_id = run.id and state in ('waiting', 'running'))`.execute(db)
}

interface Row {
  readonly id: string
  readonly state: string
  readonly sheet: string
  readonly result: string | null
}

const statements = [
  `alter table assignment rename to choice`,
  // what lists read stands before what is large, which they then never touch
  `create table deliverable (
    id text primary key, run_id text not null references run(id) on delete cascade, position integer not null,
    state text not null, title text not null default '', region text not null default '',
    outlet text not null default '', outlet_id text not null default '', timeline text not null default '',
    root text not null default '', target text not null default '', frames integer not null default 0,
    seconds real not null default 0, verdict text, final_path text, started text, finished text, problem text,
    sheet text not null, result text)`,
  `insert into deliverable (id, run_id, position, state, final_path, started, finished, problem, sheet, result)
    select id, run_id, position, state, final_path, started, finished, problem, sheet, result from item`,
  `drop table task`,
  `drop table item`,
  `create index deliverable_by_run on deliverable (run_id, position)`,
  `create index deliverable_by_state on deliverable (run_id, state, seconds)`,
  `create index deliverable_by_end on deliverable (run_id, finished)`,
  `create table step (
    id integer primary key autoincrement, run_id text references run(id) on delete cascade,
    deliverable_id text references deliverable(id) on delete cascade, key text not null, kind text not null,
    payload text not null, abilities text not null, state text not null, worker text, fence integer not null,
    beat integer not null, lost integer not null, class integer not null, run_order text not null,
    position integer not null, frames_done integer not null, frames_total integer not null, started integer,
    finished integer, result text, problem text)`,
  `create index step_by_order on step (state, class, run_order, position, id)`,
  `create index step_by_deliverable on step (deliverable_id)`,
  `create index step_by_run on step (run_id, state)`,
  `create index step_by_key on step (key) where run_id is null`,
  `create table step_need (
    step_id integer not null references step(id) on delete cascade,
    need_id integer not null references step(id) on delete cascade, primary key (step_id, need_id))`,
  `create index step_need_by_need on step_need (need_id)`,
  `drop table pulse`,
  `create table change (id integer primary key autoincrement, topic text not null, key text not null)`,
]

/* eslint-disable @typescript-eslint/no-explicit-any -- what earlier editions stored has no type any more */
async function freezeAgain(db: Kysely<unknown>, row: Row): Promise<void> {
  const sheet = JSON.parse(row.sheet) as any
  const proof = row.result ? (JSON.parse(row.result) as any) : null
  const finished = row.state === 'done' && proof
  const frozen = {
    ...sheet,
    format: 2,
    output: outputOf(sheet, proof?.info),
    steps: [],
    route: [],
    seconds: 0,
  }
  const result = proof && { ...proof, files: filesOf(proof) }
  const problem = {
    code: 'run.earlier-edition',
    message: 'This was frozen by an earlier edition and is not made from its sheet any more.',
    where: sheet.target.path,
    fix: 'Start it again from the Night run: it is frozen anew.',
  }
  const open = row.state === 'waiting' || row.state === 'running'
  await sql`update deliverable set sheet = ${JSON.stringify(frozen)}, title = ${sheet.title},
    region = ${sheet.region.name}, outlet = ${sheet.outlet.name}, outlet_id = ${sheet.outlet.id},
    timeline = ${sheet.timeline.name}, root = ${sheet.target.root}, target = ${sheet.target.path},
    frames = ${sheet.region.out - sheet.region.in}, verdict = ${finished ? proof.verdict : null},
    result = ${result ? JSON.stringify(result) : null} where id = ${row.id}`.execute(db)
  if (open)
    await sql`update deliverable set state = 'failed', result = null, problem = ${JSON.stringify(problem)}
      where id = ${row.id}`.execute(db)
}

/** Timelines of several sources said their codecs in one text. */
async function listCodecs(db: Kysely<unknown>): Promise<void> {
  const rows = await sql<{ id: string; info: string }>`select id, info from timeline`.execute(db)
  for (const row of rows.rows) {
    const info = JSON.parse(row.info) as any
    const v = info.video?.[0]
    if (!v?.codec.includes('+')) continue
    v.codecs = v.codec.split('+')
    await sql`update timeline set info = ${JSON.stringify(info)} where id = ${row.id}`.execute(db)
  }
}

/** The output of a file as it was written, as far as an earlier edition kept it. */
function outputOf(sheet: any, info: any): unknown {
  const v = info?.video?.[0] ?? null
  const a = info?.audio?.[0] ?? null
  return {
    container: info?.container ?? sheet.recipe.container,
    indexAt: 'front',
    video: v,
    audio: a,
    frames: sheet.region.out - sheet.region.in,
    samples: a?.samples ?? 0,
    start: { frames: sheet.timeline.start + sheet.region.in, label: '', dropFrame: sheet.timeline.dropFrame },
    bytes: info?.size ?? 0,
    problems: [],
  }
}

/** A proof's files: earlier editions knew of one, by its sums. */
function filesOf(proof: any): unknown {
  return proof.checksums ? [{ role: 'main', path: '', size: proof.info?.size ?? 0, ...proof.checksums }] : []
}
