import path from 'node:path'
import { readSetting, writeSetting } from '../store/settings'
import type { Db } from '../store/database'
import { isBare, markFolder, markerOf } from './identity'
import { freeRootName, type Root } from './roots'

/**
 * Storage roots by the names they had before, in whatever order their folders are given now: an outlet that writes to
 * “disk” goes on writing to that disk. A folder that was a root before and is bare now is taken for the mount point of
 * a disk that is away: it is waited for, not written to.
 */
export async function knownRoots(db: Db, folders: readonly string[]): Promise<Root[]> {
  const before = await readSetting(db, 'roots')
  const taken = new Set(before.map((r) => r.name))
  const used = new Set<string>()
  const out: Root[] = []
  for (const folder of new Set(folders.map((f) => path.resolve(f)))) {
    const marker = markerOf(folder)
    const at = before.findLast((r) => r.path === folder && !used.has(r.name))
    const byMarker = before.find((r) => r.marker !== null && r.marker === marker && !used.has(r.name))
    const known = byMarker ?? (marker === null || at?.marker === null ? at : undefined)
    const name = known?.name ?? freeRootName(folder, taken)
    taken.add(name)
    used.add(name)
    out.push({ name, path: folder, marker: await markerFor(folder, marker, known?.marker ?? null, out) })
  }
  const now = out.map((r) => ({ name: r.name, path: r.path, marker: r.marker ?? null }))
  await writeSetting(db, 'roots', [...before.filter((r) => !used.has(r.name)), ...now])
  return out
}

/** The marker that a folder has to have: its own, the one it had, or a new one. */
async function markerFor(folder: string, own: string | null, had: string | null, others: readonly Root[]) {
  if (own !== null && !others.some((r) => r.marker === own)) return own
  if (had !== null && (await isBare(folder))) return had
  return markFolder(folder, had ?? undefined)
}
