import { sql, type Kysely } from 'kysely'

/** Look-up tables of the shelf, by what is in them. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`create table look_up_table (id text primary key, name text not null, shape text not null,
    text text not null)`.execute(db)
}
