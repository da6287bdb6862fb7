import { ProblemError, type Problem } from '../../core/problem'
import { log } from '../log'
import type { Db } from './database'

const found = new WeakMap<Db, Map<string, Problem>>()

/** What could be read of rows: those that are damaged are left out and noted, so that one takes down no others. */
export function readable<R, T>(db: Db, rows: readonly R[], read: (row: R) => T): T[] {
  return rows.flatMap((row) => {
    try {
      return [read(row)]
    } catch (e) {
      if (!(e instanceof ProblemError)) throw e
      note(db, e.problem)
      return []
    }
  })
}

/** What could be read, or nothing, noted, when it is damaged. */
export async function readableOr<T>(db: Db, read: Promise<T>, otherwise: T): Promise<T> {
  try {
    return await read
  } catch (e) {
    if (!(e instanceof ProblemError)) throw e
    note(db, e.problem)
    return otherwise
  }
}

function note(db: Db, problem: Problem): void {
  const noted = found.get(db) ?? new Map<string, Problem>()
  found.set(db, noted)
  const key = `${problem.where}: ${problem.message}`
  if (!noted.has(key)) log().error({ problem }, 'a row of the database is damaged')
  noted.set(key, problem)
}

/** Rows that were left out since the database was opened. */
export function damagedRows(db: Db): Problem[] {
  return [...(found.get(db)?.values() ?? [])]
}
