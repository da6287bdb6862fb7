import path from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import Libsql from 'libsql'
import { fail } from '../../core/problem'

/** That a data folder is this process's alone, until it lets go or ends, however it ends. */
export interface DataLock {
  release(): void
}

/** How long a process that is just ending is waited for: tries, and ms between them. */
const patience = { tries: 10, between: 200 }

/** Takes a data folder. Another process that has it is a problem: two would give the same work to their workers. */
export async function lockData(folder: string): Promise<DataLock> {
  for (let n = 0; n < patience.tries; n++) {
    const db = new Libsql(path.join(folder, 'lock.sqlite'), { timeout: 0 } as never)
    try {
      db.exec('PRAGMA journal_mode = DELETE; BEGIN EXCLUSIVE')
      return { release: () => void db.close() }
    } catch (e) {
      db.close()
      if ((e as { code?: string }).code !== 'SQLITE_BUSY') throw e
      await sleep(patience.between)
    }
  }
  return fail(
    'data.in-use',
    'This data folder is in use by another Velvet Crane on this machine.',
    folder,
    'Use the one that is running, end it, or choose another data folder.',
  )
}
