import { LRUCache } from 'lru-cache'
import type { FilePath } from '../../core/media/filepath'
import { isAlike, type Fingerprint } from '../../core/media/fingerprint'
import { toProblem, type Problem } from '../../core/problem'
import { fingerprintOf } from '../storage/fingerprint'
import { statMedia } from '../storage/fileset'
import type { Roots } from '../storage/roots'

/** Fingerprints of files whose times have changed, by place, size and times: they are looked at again and again. */
const taken = new LRUCache<string, Fingerprint>({ max: 10_000 })

async function fingerprintAt(
  full: string,
  { size, modified }: Pick<Fingerprint, 'size' | 'modified'>,
): Promise<Fingerprint> {
  const key = `${full}\0${size}\0${modified}`
  const known = taken.get(key) ?? (await fingerprintOf(full))
  taken.set(key, known)
  return known
}

/** What is wrong with a file right now: gone, or replaced. */
export async function fileProblem(
  roots: Roots,
  file: FilePath & { readonly fingerprint: Fingerprint },
): Promise<Problem | null> {
  try {
    const full = roots.resolve(file.root, file.path)
    const info = await statMedia(full)
    if (info.size !== file.fingerprint.size || info.modified !== file.fingerprint.modified) {
      if (!isAlike(await fingerprintAt(full, info), file.fingerprint))
        return {
          code: 'media.replaced',
          message: 'The media file has changed since it was brought in.',
          where: file.path,
          fix: 'Look at it again and link it anew, bring it in as a new timeline, or put the old file back.',
        }
    }
    return null
  } catch (e) {
    return toProblem(e, file.path)
  }
}
