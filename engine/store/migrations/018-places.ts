import { sql, type Kysely } from 'kysely'

/**
 * What a step reads and writes, so that machines that joined are given what they can reach. Of steps that were offered
 * before, nobody knows: they are for this machine alone.
 */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`alter table step add column places text not null default '["own-disk"]'`.execute(db)
}
