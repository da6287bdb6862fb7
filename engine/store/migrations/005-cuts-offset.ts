import { sql, type Kysely } from 'kysely'

/** How far a list's cuts were moved against their flattened file; until now only the moved cuts were kept. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`alter table timeline add column cuts_offset integer not null default 0`.execute(db)
}
