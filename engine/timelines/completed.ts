import type { MediaInfo } from '../../core/media/media'
import type { FilePath } from '../../core/media/filepath'
import type { Fingerprint } from '../../core/media/fingerprint'
import type { SplitTimeline } from '../../core/split/timeline'
import { assemblyInfo } from '../../core/timeline/assembly/assembly'
import { checkFingerprint } from '../storage/fingerprint'
import { openMediaFile } from '../storage/mediafile'
import type { Roots } from '../storage/roots'

type Described = FilePath & { readonly fingerprint: Fingerprint }

/** A description that lacks what earlier editions did not look for, with it; as it is where its file is away. */
async function whole(roots: Roots, file: Described, info: MediaInfo): Promise<MediaInfo> {
  if (info.data) return info
  try {
    const there = roots.resolve(file.root, file.path)
    await checkFingerprint(there, file.fingerprint, file.path)
    const opened = await openMediaFile(there, file.path)
    await opened.close()
    return { ...info, ...(opened.info.data ? { data: opened.info.data } : {}) }
  } catch {
    return info
  }
}

/** What a timeline that an earlier edition brought in is as this one would see it; null where that is the same. */
export async function completed(
  roots: Roots,
  t: SplitTimeline,
): Promise<Partial<Pick<SplitTimeline, 'info' | 'linking'>> | null> {
  if (t.info.data) return null
  if (!t.linking) {
    const info = await whole(roots, { ...t.file, fingerprint: t.fingerprint }, t.info)
    return info.data ? { info } : null
  }
  const { assembly, infos } = t.linking
  const now: MediaInfo[] = []
  for (const [i, info] of infos.entries()) now.push(await whole(roots, assembly.sources[i]!, info))
  const { data } = assemblyInfo({ ...assembly, timeline: t.model }, now)
  return data ? { info: { ...t.info, data }, linking: { ...t.linking, infos: now } } : null
}
