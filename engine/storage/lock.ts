import path from 'node:path'
import Libsql from 'libsql'
import { fail } from '../../core/problem'

/** That a data folder is this process's alone, until it lets go or ends, however it ends. */
export interface DataLock {
  release(): void
}

/** Takes a data folder. Another process that has it is a problem: two would give the same work to their workers. */
export function lockData(folder: string): DataLock {
  const db = new Libsql(path.join(folder, 'lock.sqlite'), { timeout: 0 } as never)
  try {
    db.exec('PRAGMA journal_mode = DELETE; BEGIN EXCLUSIVE')
  } catch (e) {
    db.close()
    if ((e as { code?: string }).code !== 'SQLITE_BUSY') throw e
    fail(
      'data.in-use',
      'This data folder is in use by another Velvet Crane on this machine.',
      folder,
      'Use the one that is running, end it, or choose another data folder.',
    )
  }
  return { release: () => void db.close() }
}
