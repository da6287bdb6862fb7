import { existsSync, readdirSync, statSync } from 'node:fs'
import { copyFile, rename, rm } from 'node:fs/promises'
import path from 'node:path'
import { sql } from 'kysely'
import Libsql from 'libsql'
import { fail } from '../../core/problem'
import { flushFile } from '../storage/durable'
import type { Db } from './database'
import { latestMigration } from './migrate'

/** The copy of a database as it was at the last start that worked. */
export const copyOf = (file: string) => `${file}.last-start`

/** The copy that is made before a newer edition changes a database, by the migration it was at. */
const copyBefore = (file: string, at: string) => `${file}.at-${at}`

/**
 * Looks at a database before it is opened, and keeps a copy of one that this edition is going to change. One that is
 * gone or was cut to nothing beside what it kept, one that is no database or is damaged is a problem: nothing starts as
 * if nothing had ever been there.
 */
export async function prepareDatabase(file: string): Promise<void> {
  const size = statSync(file, { throwIfNoEntry: false })?.size ?? 0
  if (size === 0) {
    const runs = path.join(path.dirname(file), 'runs')
    if (existsSync(copyOf(file)) || (existsSync(runs) && readdirSync(runs).length > 0))
      damaged(file, existsSync(file) ? 'is empty' : 'is gone')
    return
  }
  const at = migrationOf(file)
  if (at < latestMigration) await copy(file, copyBefore(file, at))
}

/** The last migration that a database has been through, after it was found whole and its journal was written back. */
function migrationOf(file: string): string {
  let db: Libsql.Database | undefined
  try {
    db = new Libsql(file, { timeout: 15_000 } as never)
    const [first] = db.prepare('PRAGMA quick_check(1)').all() as { quick_check: string }[]
    if (first?.quick_check !== 'ok') damaged(file, `is damaged (${first?.quick_check ?? 'it cannot be checked'})`)
    db.exec('PRAGMA wal_checkpoint(TRUNCATE)')
    const knows = db.prepare(`select name from sqlite_master where name = 'kysely_migration'`).all()
    const last = knows.length ? db.prepare('select max(name) as name from kysely_migration').all() : []
    return (last as { name: string | null }[])[0]?.name ?? '000'
  } catch (e) {
    const code = (e as { code?: string }).code ?? ''
    if (code === 'SQLITE_NOTADB') damaged(file, 'is no database any more')
    if (code.startsWith('SQLITE_CORRUPT')) damaged(file, 'is damaged')
    throw e
  } finally {
    db?.close()
  }
}

function damaged(file: string, what: string): never {
  const copy = copyOf(file)
  const back = existsSync(copy)
    ? `Put back the copy of the last start that worked: remove ${path.basename(file)}-wal and -shm, then copy ` +
      `${path.basename(copy)} over ${path.basename(file)}.`
    : 'Put back a copy of it, or choose another data folder.'
  return fail('data.damaged', `The database ${what}.`, file, back)
}

/** Keeps a copy of a database that has just started well. Nobody else may be writing. */
export async function keepCopy(db: Db, file: string): Promise<void> {
  await sql`pragma wal_checkpoint(truncate)`.execute(db)
  await copy(file, copyOf(file))
}

async function copy(from: string, to: string): Promise<void> {
  const part = `${to}.part`
  try {
    await copyFile(from, part)
    await flushFile(part)
    await rename(part, to)
  } finally {
    await rm(part, { force: true })
  }
}
