import { createHash } from 'node:crypto'
import path from 'node:path'
import type { ShelfTable } from '../../contract/shelf'
import { readTable } from '../../core/picture/table/registry'
import type { LookUpTable } from '../../core/picture/table/table'
import { fail } from '../../core/problem'
import type { Db } from './database'

/** Every table there is, without what is in it. */
export function listTables(db: Db): Promise<ShelfTable[]> {
  return db.selectFrom('look_up_table').select(['id', 'name', 'shape']).orderBy('name').orderBy('id').execute()
}

/** Keeps a table out of a file; the same one twice is one. */
export async function keepTable(db: Db, file: string, text: string): Promise<ShelfTable> {
  const { name: own, shape } = readTable(text, file)
  const name = own.trim() || path.basename(file, path.extname(file))
  const slug = name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 40)
  const id = `${slug || 'table'}-${createHash('sha256').update(text).digest('hex').slice(0, 12)}`
  await db
    .insertInto('look_up_table')
    .values({ id, name, shape, text })
    .onConflict((c) => c.column('id').doNothing())
    .execute()
  return { id, name, shape }
}

/** Whether a deliverable that is still to be made goes by a table. */
export async function isUnderWay(db: Db, id: string): Promise<boolean> {
  const row = await db
    .selectFrom('deliverable')
    .select('id')
    .where('state', 'in', ['waiting', 'running'])
    .where('sheet', 'like', `%"table":"${id}"%`)
    .executeTakeFirst()
  return row !== undefined
}

export async function removeTable(db: Db, id: string): Promise<void> {
  await db.deleteFrom('look_up_table').where('id', '=', id).execute()
}

/** What is in a table; a problem when it is not on the shelf any more. */
export async function tableText(db: Db, id: string): Promise<string> {
  const row = await db.selectFrom('look_up_table').select('text').where('id', '=', id).executeTakeFirst()
  return (
    row?.text ??
    fail('table.unknown', 'This look-up table is not on the shelf any more.', id, 'Add it again, or choose another.')
  )
}

/** A table read; a problem when it is not on the shelf any more. */
export async function tableOf(db: Db, id: string): Promise<LookUpTable> {
  return readTable(await tableText(db, id), id)
}
