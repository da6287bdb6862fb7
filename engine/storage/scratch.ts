import { existsSync } from 'node:fs'
import { mkdir, readdir, rm, rmdir, stat } from 'node:fs/promises'
import path from 'node:path'
import { scratchName } from '../../core/deliverable/names'
import { ProblemError } from '../../core/problem'
import type { Roots } from './roots'

/** What making a folder says when one above it goes in the same moment. */
const passing = new Set(['ENOENT', 'ENOTDIR', 'EEXIST'])

/** A folder for scratch files of an installation, on the same disk as a root. Made when missing. */
export async function scratchFolder(
  roots: Roots,
  root: string,
  installation: string,
  ...parts: readonly string[]
): Promise<string> {
  const folder = roots.resolve(root, path.join(scratchName, installation, ...parts))
  for (let tries = 1; ; tries++)
    try {
      await mkdir(folder, { recursive: true })
      return folder
    } catch (e) {
      const locked = await roots.readOnly(root)
      if (locked) throw new ProblemError(locked)
      // another worker may just be removing a folder above, which was empty
      if (!passing.has((e as NodeJS.ErrnoException).code ?? '') || tries === 50) throw e
    }
}

/**
 * Removes what an installation left in its scratch folders and no unfinished deliverable owns. What belongs to other
 * installations that use the same roots is left alone. `live` is asked once it is known what is there: what is begun
 * meanwhile is not taken for something left behind.
 */
export async function sweepScratch(
  roots: Roots,
  installation: string,
  live: () => Promise<ReadonlySet<string>>,
): Promise<void> {
  for (const root of roots.list) {
    const own = path.join(root.path, scratchName, installation)
    if (roots.away(root.name) || !existsSync(own)) continue
    const found: { folder: string; id: string }[] = []
    const runs = await readdir(own)
    for (const run of runs)
      for (const id of await readdir(path.join(own, run)).catch(() => []))
        found.push({ folder: path.join(own, run), id })
    const open = await live()
    for (const { folder, id } of found)
      if (!open.has(id)) await rm(path.join(folder, id), { recursive: true, force: true })
    for (const empty of [...runs.map((r) => path.join(own, r)), own, path.dirname(own)])
      await rmdir(empty).catch(() => undefined)
  }
}

/** Bytes that scratch files of an installation's deliverables take of the disk of a root. */
export async function scratchBytes(
  roots: Roots,
  root: string,
  installation: string,
  deliverables: ReadonlySet<string>,
): Promise<number> {
  const own = roots.resolve(root, path.join(scratchName, installation))
  let bytes = 0
  for (const run of await readdir(own).catch(() => []))
    for (const id of await readdir(path.join(own, run)).catch(() => []))
      if (deliverables.has(id)) bytes += await bytesBelow(path.join(own, run, id))
  return bytes
}

/** Of a disk; of files that have holes, what is written of them. What goes meanwhile counts for nothing. */
async function bytesBelow(folder: string): Promise<number> {
  let bytes = 0
  for (const name of await readdir(folder, { recursive: true }).catch(() => []))
    // blocks of 512 bytes, whatever those of the disk are
    bytes += await stat(path.join(folder, name)).then(
      (s) => (s.isFile() ? s.blocks * 512 : 0),
      () => 0,
    )
  return bytes
}
