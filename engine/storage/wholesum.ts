import type { Fingerprint } from '../../core/media/fingerprint'
import type { FilePath } from '../../core/media/filepath'
import { fail } from '../../core/problem'
import { filesOf } from '../../core/files/fileset'
import { statMedia } from './fileset'
import { sumsOfFiles } from './hashing'
import type { Roots } from './roots'

// A fingerprint is of samples of a file. A file that was replaced by one of the same size, index and samples is told
// from it by a sum of all its bytes, which is made once in the background and asked for only where its times differ.

/** The xxHash64 of everything that media consists of. */
export async function sumOf(full: string, progress?: () => void): Promise<string> {
  return (await sumsOfFiles(filesOf(full) ?? [full], ['xxh64'], progress)).xxh64
}

/** Files that were looked at fully by this process, as they were then. */
const looked = new Map<string, string>()

/**
 * Throws when a file has other times than when it was brought in, and not every byte of it is what it was. `known`
 * gives the sum that was made of it then; null when there is none.
 */
export async function checkTouched(
  roots: Roots,
  known: (fingerprint: Fingerprint) => Promise<string | null>,
  files: readonly (FilePath & { readonly fingerprint: Fingerprint })[],
): Promise<void> {
  for (const { root, path, fingerprint } of files) {
    const full = roots.resolve(root, path)
    const now = await statMedia(full)
    if (now.size !== fingerprint.size || now.modified === fingerprint.modified) continue
    const key = `${full}\0${now.size}\0${now.modified}`
    const sum = looked.get(key) ?? (await sumOf(full))
    looked.set(key, sum)
    const was = await known(fingerprint)
    if (was === null)
      fail(
        'media.replaced',
        'The media file was written to before all of it was known: it may be another one.',
        path,
        'Take the timeline off the list and bring the file in again.',
      )
    if (was !== sum)
      fail(
        'media.replaced',
        'The media file has changed since it was brought in, though its size and its index have not.',
        path,
        'Take the timeline off the list and bring the file in again, or put the old one back.',
      )
  }
}
