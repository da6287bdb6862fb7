import { describedEdition, type MediaInfo } from '../../core/media/media'
import { saidOf, takenAs } from '../../core/media/scan'
import type { FilePath } from '../../core/media/filepath'
import type { Fingerprint } from '../../core/media/fingerprint'
import type { SplitTimeline } from '../../core/split/timeline'
import { assemblyInfo } from '../../core/timeline/assembly/assembly'
import { checkFingerprint } from '../storage/fingerprint'
import { openMediaFile } from '../storage/mediafile'
import type { Roots } from '../storage/roots'

type Described = FilePath & { readonly fingerprint: Fingerprint }

/** A description of an earlier edition as this one gives it; as it is where its file is away. */
async function whole(roots: Roots, file: Described, info: MediaInfo): Promise<MediaInfo> {
  if (info.edition === describedEdition) return info
  try {
    const there = roots.resolve(file.root, file.path)
    await checkFingerprint(there, file.fingerprint, file.path)
    const opened = await openMediaFile(there, file.path)
    await opened.close()
    return takenAs(opened.info, saidOf(info).scan)
  } catch {
    return info
  }
}

/** What a timeline that an earlier edition brought in is as this one would see it; null where that is the same. */
export async function completed(
  roots: Roots,
  t: SplitTimeline,
): Promise<Partial<Pick<SplitTimeline, 'info' | 'linking'>> | null> {
  if (t.info.edition === describedEdition) return null
  if (!t.linking) {
    const info = await whole(roots, { ...t.file, fingerprint: t.fingerprint }, t.info)
    return info === t.info ? null : { info }
  }
  const { assembly, infos } = t.linking
  const now: MediaInfo[] = []
  for (const [i, info] of infos.entries()) now.push(await whole(roots, assembly.sources[i]!, info))
  if (now.every((info, i) => info === infos[i])) return null
  return { info: assemblyInfo({ ...assembly, timeline: t.model }, now), linking: { ...t.linking, infos: now } }
}
