import { existsSync } from 'node:fs'
import { mkdir, readdir, rm, rmdir } from 'node:fs/promises'
import path from 'node:path'
import type { Roots } from './roots'

/** Where files are made, below each root: never below a name that an outlet can have. */
const top = '.velvet-scratch'

/** A folder for scratch files of an installation, on the same disk as a root. Made when missing. */
export async function scratchFolder(
  roots: Roots,
  root: string,
  installation: string,
  ...parts: readonly string[]
): Promise<string> {
  const folder = roots.resolve(root, path.join(top, installation, ...parts))
  await mkdir(folder, { recursive: true })
  return folder
}

/**
 * Removes what an installation left in its scratch folders and no unfinished deliverable owns. What belongs to other
 * installations that use the same roots is left alone.
 */
export async function sweepScratch(roots: Roots, installation: string, live: ReadonlySet<string>): Promise<void> {
  for (const root of roots.list) {
    const own = path.join(root.path, top, installation)
    if (roots.away(root.name) || !existsSync(own)) continue
    for (const run of await readdir(own)) {
      const folder = path.join(own, run)
      const items = await readdir(folder).catch(() => [] as string[])
      for (const id of items) if (!live.has(id)) await rm(path.join(folder, id), { recursive: true, force: true })
      if (!items.some((id) => live.has(id))) await rm(folder, { recursive: true, force: true })
    }
    for (const empty of [own, path.dirname(own)]) await rmdir(empty).catch(() => undefined)
  }
}
