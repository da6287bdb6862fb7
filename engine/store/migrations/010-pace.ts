import { sql, type Kysely } from 'kysely'

/** How fast steps of a kind have gone: frames and seconds of the last ones, older ones weighing less. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`create table pace (key text primary key, frames real not null, seconds real not null)`.execute(db)
}
