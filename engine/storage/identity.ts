import { randomUUID } from 'node:crypto'
import { readFileSync, statSync, writeFileSync } from 'node:fs'
import { readdir } from 'node:fs/promises'
import path from 'node:path'

/** How a folder is known again while a process runs: by its place on its disk. */
export function placeOf(folder: string): string | null {
  const s = statSync(folder, { bigint: true, throwIfNoEntry: false })
  return s?.isDirectory() ? `${s.dev}:${s.ino}` : null
}

/** The file below a storage root that it is known by wherever it is mounted, and after a restart. */
export const markerFile = '.velvet-root'

/** The marker of a storage root; null when it has none. */
export function markerOf(folder: string): string | null {
  try {
    const found = JSON.parse(readFileSync(path.join(folder, markerFile), 'utf8')) as { root?: unknown }
    return typeof found.root === 'string' && found.root !== '' ? found.root : null
  } catch {
    return null
  }
}

/** Gives a storage root a marker; null where nothing can be written: then its place has to do. */
export function markFolder(folder: string, marker: string = randomUUID()): string | null {
  try {
    writeFileSync(path.join(folder, markerFile), `${JSON.stringify({ format: 1, root: marker })}\n`)
    return marker
  } catch {
    return null
  }
}

/** Whether nothing at all is in a folder, as below a mount point whose disk is not there; true when it is not there. */
export async function isBare(folder: string): Promise<boolean> {
  return (await readdir(folder).catch(() => [])).length === 0
}
