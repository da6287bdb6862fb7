import { randomBytes } from 'node:crypto'
import type { Db } from './database'

/** Reads a setting, or its default. */
export async function readSetting<T>(db: Db, key: string, otherwise: T): Promise<T> {
  const row = await db.selectFrom('setting').select('value').where('key', '=', key).executeTakeFirst()
  return row ? (JSON.parse(row.value) as T) : otherwise
}

export async function writeSetting(db: Db, key: string, value: unknown): Promise<void> {
  await db
    .insertInto('setting')
    .values({ key, value: JSON.stringify(value) })
    .onConflict((c) => c.column('key').doUpdateSet({ value: JSON.stringify(value) }))
    .execute()
}

/** What tells this installation from others that use the same storage: made once, kept with its database. */
export async function installationOf(db: Db): Promise<string> {
  await db
    .insertInto('setting')
    .values({ key: 'installation', value: JSON.stringify(randomBytes(4).toString('hex')) })
    .onConflict((c) => c.column('key').doNothing())
    .execute()
  return readSetting(db, 'installation', '')
}
