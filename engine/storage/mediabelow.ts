import { readdir, stat } from 'node:fs/promises'
import path from 'node:path'
import { brandOf } from '../../core/container/registry'
import { groupFiles, isRun } from '../../core/files/fileset'

/**
 * Media at or below a place by the endings of their names, in order: files, and runs of stills as one each; nothing
 * hidden. Names are told below the place, that of the place itself is empty.
 */
export async function mediaBelow(top: string): Promise<string[]> {
  if (isRun(top) || !(await stat(top)).isDirectory()) return isRun(top) || brandOf(top) ? [''] : []
  const folders = new Map<string, string[]>()
  for (const name of await readdir(top, { recursive: true })) {
    if (name.split(path.sep).some((part) => part.startsWith('.'))) continue
    const folder = path.dirname(name)
    folders.set(folder, [...(folders.get(folder) ?? []), path.basename(name)])
  }
  const out: string[] = []
  for (const [folder, names] of folders) {
    for (const run of groupFiles(names).filter(isRun)) out.push(path.join(folder, run))
    for (const name of names.filter((n) => brandOf(n))) {
      const info = await stat(path.join(top, folder, name)).catch(() => null)
      if (info?.isFile()) out.push(path.join(folder, name))
    }
  }
  return out.sort()
}
