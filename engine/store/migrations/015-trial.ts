import { sql, type Kysely } from 'kysely'

/** Whether a deliverable is made to be looked at only: lists tell it from a delivery. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`alter table deliverable add column trial integer not null default 0`.execute(db)
}
