import { lstat, realpath, stat } from 'node:fs/promises'
import path from 'node:path'
import { filesOf } from '../../core/files/fileset'
import { fail } from '../../core/problem'

/** Size and time of media, whatever number of files it is; throws when one is missing. */
export async function statMedia(full: string): Promise<{ size: number; modified: number }> {
  const files = filesOf(full) ?? [full]
  let [size, modified] = [0, 0]
  for (const f of files) {
    const s = await stat(f)
    if (files.length > 1) await staysInFolder(f)
    size += s.size
    modified = Math.max(modified, Math.round(s.mtimeMs))
  }
  return { size, modified }
}

/** A link among the files of a set is followed within their folder only: the whole was let through as one name. */
async function staysInFolder(file: string): Promise<void> {
  if (!(await lstat(file)).isSymbolicLink()) return
  const [there, folder] = await Promise.all([realpath(file), realpath(path.dirname(file))])
  if (path.dirname(there) !== folder)
    fail(
      'set.link',
      `“${path.basename(file)}” is a link that leads out of the folder of its set.`,
      path.basename(file),
      'Put the file itself there.',
    )
}
