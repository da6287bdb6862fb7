import { Migrator, type Kysely, type Migration } from 'kysely'
import { fail } from '../../core/problem'
import * as first from './migrations/001-first'
import * as names from './migrations/002-names'
import * as queue from './migrations/003-queue'
import * as interrupted from './migrations/004-interrupted'
import * as cutsOffset from './migrations/005-cuts-offset'
import * as identity from './migrations/006-identity'
import * as report from './migrations/007-report'
import * as aside from './migrations/008-aside'
import * as identities from './migrations/009-identity'
import * as pace from './migrations/010-pace'
import * as shares from './migrations/011-shares'
import * as plainer from './migrations/012-identity'
import * as kinds from './migrations/013-kinds'
import * as essence from './migrations/014-essence'
import * as trial from './migrations/015-trial'
import * as table from './migrations/016-table'
import * as checksums from './migrations/017-checksums'
import * as places from './migrations/018-places'

/** What brings a database from one edition to the next, in order; each is run once, whole or not at all. */
const migrations: Readonly<Record<string, Migration>> = {
  '001-first': first,
  '002-names': names,
  '003-queue': queue,
  '004-interrupted': interrupted,
  '005-cuts-offset': cutsOffset,
  '006-identity': identity,
  '007-report': report,
  '008-aside': aside,
  '009-identity': identities,
  '010-pace': pace,
  '011-shares': shares,
  '012-identity': plainer,
  '013-kinds': kinds,
  '014-essence': essence,
  '015-trial': trial,
  '016-table': table,
  '017-checksums': checksums,
  '018-places': places,
}

/** The migration that brings a database to this edition. */
export const latestMigration = Object.keys(migrations).at(-1)!

/** Brings a database up to this edition. One that a newer edition has been at is refused. */
export async function migrate(db: Kysely<unknown>, file: string): Promise<void> {
  const provider = { getMigrations: () => Promise.resolve({ ...migrations }) }
  const { error } = await new Migrator({ db, provider }).migrateToLatest()
  if (error instanceof Error && /previously executed migration \S+ is missing/.test(error.message))
    fail(
      'data.newer',
      'This database was written by a newer edition of Velvet Crane.',
      file,
      'Start the newer edition, or choose another data folder.',
    )
  if (error) throw error
}
