import { unitFacts, type UnitFacts } from '../../../core/codec/unitfacts'
import { openMediaFile } from '../../storage/mediafile'
import type { BackgroundStep } from '../background'

/** What the coded pictures of a file say of themselves, all of them; null of a file without any. */
export async function readUnits({ storage, payload, progress }: BackgroundStep): Promise<UnitFacts | null> {
  const { root, path } = payload.source
  const { media, close } = await openMediaFile(storage.resolve(root, path), path)
  try {
    const [track] = media?.video ?? []
    if (!media || !track) return null
    return await unitFacts(media.source, track, { in: 0, out: track.info.frames }, () => progress(0))
  } finally {
    await close()
  }
}
