import { statMedia } from '../../storage/fileset'
import { sumOf } from '../../storage/wholesum'
import type { BackgroundStep } from '../background'

/** The sum of media as it was brought in; null when it has been written to since. */
export async function sumMedia({ storage, payload, progress }: BackgroundStep): Promise<string | null> {
  const { root, path, fingerprint } = payload.source
  const full = storage.resolve(root, path)
  const before = await statMedia(full)
  if (before.size !== fingerprint.size || before.modified !== fingerprint.modified) return null
  const sum = await sumOf(full, () => progress(0))
  const after = await statMedia(full)
  return after.modified === before.modified ? sum : null
}
