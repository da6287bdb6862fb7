import { sql, type Kysely } from 'kysely'

/**
 * What a report and the Handover's list say of a finished deliverable, in columns of its own: so that thousands of
 * proofs are not read for each file that is finished.
 */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`alter table deliverable add column bytes integer not null default 0`.execute(db)
  await sql`alter table deliverable add column report text`.execute(db)
  const ids = await sql<{ id: string }>`select id from deliverable where result is not null`.execute(db)
  for (const { id } of ids.rows) await tell(db, id)
}

interface Row {
  readonly title: string
  readonly region: string
  readonly frames: number
  readonly final_path: string
  readonly result: string
}

/* eslint-disable @typescript-eslint/no-explicit-any -- what earlier editions stored has no type any more */
async function tell(db: Kysely<unknown>, id: string): Promise<void> {
  const found = await sql<Row>`select title, region, frames, final_path, result from deliverable
    where id = ${id}`.execute(db)
  const row = found.rows[0]!
  const proof = JSON.parse(row.result) as any
  const { sha256, xxh64 } = proof.files[0]
  const entry = {
    path: row.final_path,
    title: row.title,
    region: row.region,
    frames: row.frames,
    verdict: proof.verdict,
    checksums: { sha256, xxh64 },
    rules: proof.results.map((r: any) => ({
      id: r.rule.id,
      measure: r.rule.measure,
      required: r.required,
      written: r.written?.text ?? null,
      verdict: r.verdict,
      clause: r.rule.clause,
      waiver: r.waiver ? `${r.waiver.initials}: ${r.waiver.reason}` : null,
    })),
  }
  await sql`update deliverable set bytes = ${proof.info.size ?? 0}, report = ${JSON.stringify(entry)}
    where id = ${id}`.execute(db)
}
