import { sql, type Kysely } from 'kysely'

/** Steps of a run that read the same pictures are taken together; what they share is their mark. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`alter table step add column shares text`.execute(db)
  await sql`create index step_by_shares on step (run_id, shares) where shares is not null`.execute(db)
}
