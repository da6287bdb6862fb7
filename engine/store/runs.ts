import { fail } from '../../core/problem'
import type { Db, RunRow } from './database'

/** A run's row; a problem when it is not there. */
export async function runRow(db: Db, id: string): Promise<RunRow> {
  const row = await db.selectFrom('run').selectAll().where('id', '=', id).executeTakeFirst()
  return row ?? fail('run.unknown', 'This run is not here any more.', id, 'Choose another one.')
}
