import { createHash } from 'node:crypto'
import { mkdirSync, readFileSync } from 'node:fs'
import path from 'node:path'

/** The project's folder: where dist/ and node_modules/ are. The launcher says it; tests and tools run inside it. */
export function home(): string {
  return process.env.VELVET_HOME ?? process.cwd()
}

/**
 * The name that the cache goes by where files are named by a root and a path: of no storage root, so that nothing from
 * outside can mean it.
 */
export const cacheRoot = '/cache'

/** The folders of a data directory, made when missing. */
export interface DataFolders {
  readonly data: string
  readonly database: string
  readonly cache: string
  readonly runs: string
}

export function dataFolders(data: string): DataFolders {
  const folders = {
    data,
    database: path.join(data, 'velvet.sqlite'),
    cache: path.join(data, 'cache'),
    runs: path.join(data, 'runs'),
  }
  for (const d of [data, folders.cache, folders.runs]) mkdirSync(d, { recursive: true })
  return folders
}

let edition: string | undefined

/** What the workers of this installation were built from: two with the same do the same. */
export function workerEdition(): string {
  // its name for what else it loads is made from what is in that
  const built = path.join(home(), 'dist', 'worker.mjs')
  return (edition ??= createHash('sha256').update(readFileSync(built)).digest('hex').slice(0, 16))
}
