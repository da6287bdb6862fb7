import { sql, type Kysely } from 'kysely'

/** A step can be set aside until storage roots are back; which those are, and how often it stumbled there is kept. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`alter table step add column aside_for text`.execute(db)
  await sql`alter table step add column stumbles integer not null default 0`.execute(db)
}
