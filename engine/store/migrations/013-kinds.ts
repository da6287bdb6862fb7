import { sql, type Kysely } from 'kysely'

/** The kinds of region an outlet asks for. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`alter table outlet add column kinds text`.execute(db)
}
