import { sql, type Kysely } from 'kysely'

/** The kinds of checksum an outlet is sent. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`alter table outlet add column checksums text`.execute(db)
}
