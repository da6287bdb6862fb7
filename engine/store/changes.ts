import type { Db } from './database'

/**
 * What changes are told of; the key says which one, and is empty where the topic is one thing. `run` is how one goes,
 * `runs` which there are and what is in them.
 */
export type Topic = 'timelines' | 'split' | 'outlets' | 'facts' | 'run' | 'runs' | 'finished'

export interface Change {
  readonly id: number
  readonly topic: Topic
  readonly key: string
}

/** Changes older than so many others are forgotten: whoever has not read them reads everything anew. */
const kept = 5_000

/** Notes that something changed, for whoever shows it. */
export async function noteChange(db: Db, topic: Topic, key: string): Promise<void> {
  const row = await db.insertInto('change').values({ topic, key }).returning('id').executeTakeFirstOrThrow()
  if (row.id % 500 === 0)
    await db
      .deleteFrom('change')
      .where('id', '<', row.id - kept)
      .execute()
}

/** Changes after one, oldest first; null when some of them are forgotten. */
export async function changesAfter(db: Db, id: number): Promise<Change[] | null> {
  const rows = await db.selectFrom('change').selectAll().where('id', '>', id).orderBy('id').execute()
  return rows.length && rows[0]!.id !== id + 1 ? null : (rows as Change[])
}

/** The newest change. */
export async function lastChange(db: Db): Promise<number> {
  const row = await db.selectFrom('change').select('id').orderBy('id', 'desc').limit(1).executeTakeFirst()
  return row?.id ?? 0
}
