import { randomBytes } from 'node:crypto'
import type { Db } from './database'
import { kept } from './stored'

/** Every setting there is, and what it is until it is set. */
const settings = {
  specs: { kept: kept.specs, otherwise: [] },
  roots: { kept: kept.roots, otherwise: [] },
  watchReceived: { kept: kept.watchedReceived, otherwise: null },
  watch: { kept: kept.watched, otherwise: null },
  installation: { kept: kept.installation, otherwise: '' },
}
type Name = keyof typeof settings
type Value<N extends Name> = ReturnType<(typeof settings)[N]['kept']['read']>

/** Reads a setting, or its default. */
export async function readSetting<N extends Name>(db: Db, name: N): Promise<Value<N>> {
  const row = await db.selectFrom('setting').select('value').where('key', '=', name).executeTakeFirst()
  const setting = settings[name]
  return (row ? setting.kept.read(row.value, `setting “${name}”`) : setting.otherwise) as Value<N>
}

export async function writeSetting<N extends Name>(db: Db, name: N, value: Value<N>): Promise<void> {
  const text = settings[name].kept.write(value as never)
  await db
    .insertInto('setting')
    .values({ key: name, value: text })
    .onConflict((c) => c.column('key').doUpdateSet({ value: text }))
    .execute()
}

/** What tells this installation from others that use the same storage: made once, kept with its database. */
export async function installationOf(db: Db): Promise<string> {
  await db
    .insertInto('setting')
    .values({ key: 'installation', value: kept.installation.write(randomBytes(4).toString('hex')) })
    .onConflict((c) => c.column('key').doNothing())
    .execute()
  return readSetting(db, 'installation')
}
