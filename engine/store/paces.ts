import { sql, type Transaction } from 'kysely'
import type { Paces } from '../../core/job/paces'
import type { Db, Tables } from './database'

/** What is left of what was learned before, each time more is: about ten steps count. */
const memory = 0.9

/** Learns from a step that was finished how fast its kind goes. */
export async function learnPace(
  tx: Db | Transaction<Tables>,
  key: string,
  frames: number,
  seconds: number,
): Promise<void> {
  if (frames <= 0 || seconds <= 0) return
  await tx
    .insertInto('pace')
    .values({ key, frames, seconds })
    .onConflict((c) =>
      c.column('key').doUpdateSet({
        frames: sql<number>`pace.frames * ${memory} + ${frames}`,
        seconds: sql<number>`pace.seconds * ${memory} + ${seconds}`,
      }),
    )
    .execute()
}

/** Frames a second by what they are of, to two digits: less would not be noticed in a forecast. */
export async function readPaces(db: Db): Promise<Paces> {
  const rows = await db.selectFrom('pace').selectAll().execute()
  return new Map(rows.map((r) => [r.key, Number((r.frames / r.seconds).toPrecision(2))]))
}
