import type { FilePath } from '../../core/media/filepath'
import { isAlike, type Fingerprint } from '../../core/media/fingerprint'
import { toProblem, type Problem } from '../../core/problem'
import { fingerprintOf } from '../storage/fingerprint'
import { statMedia } from '../storage/fileset'
import type { Roots } from '../storage/roots'

/** What is wrong with a file right now: gone, or replaced. */
export async function fileProblem(
  roots: Roots,
  file: FilePath & { readonly fingerprint: Fingerprint },
): Promise<Problem | null> {
  try {
    const full = roots.resolve(file.root, file.path)
    const info = await statMedia(full)
    if (info.size !== file.fingerprint.size || info.modified !== file.fingerprint.modified) {
      if (!isAlike(await fingerprintOf(full), file.fingerprint))
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
