import { sql, type Kysely } from 'kysely'

/**
 * Whether a step was taken out of hands that may still be writing; until now only how often workers were lost was
 * kept.
 */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`alter table step add column interrupted integer not null default 0`.execute(db)
  await sql`update step set interrupted = 1 where lost > 0`.execute(db)
}
