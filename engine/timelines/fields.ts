import type { MediaInfo, Scan } from '../../core/media/media'
import { takenAs } from '../../core/media/scan'
import { fail } from '../../core/problem'
import type { SplitTimeline } from '../../core/split/timeline'
import { checkFingerprint } from '../storage/fingerprint'
import { openMediaFile } from '../storage/mediafile'
import type { Roots } from '../storage/roots'

/** What a flattened timeline's media is with its pictures taken for `scan`, or (null) for what its file says. */
export async function infoTakenAs(roots: Roots, t: SplitTimeline, scan: Scan | null): Promise<MediaInfo> {
  if (t.linking || !t.info.video[0])
    fail(
      'timeline.fields',
      t.linking
        ? 'What the pictures of this timeline are is told by each of its sources.'
        : 'There are no pictures in this timeline.',
      t.name,
      'It can be set of a timeline that is one file of pictures.',
    )
  const place = roots.resolve(t.file.root, t.file.path)
  await checkFingerprint(place, t.fingerprint, t.file.path)
  const opened = await openMediaFile(place, t.file.path)
  await opened.close()
  return takenAs(opened.info, scan ?? undefined)
}
