import { sql, type Kysely } from 'kysely'

/** What makes a deliverable the same one as another, as a sum: so that what was delivered is known again. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`alter table deliverable add column identity text`.execute(db)
}
