import { differing, type ExpectedSum } from '../../storage/listedsums'
import { checkFingerprint } from '../../storage/fingerprint'
import type { BackgroundStep } from '../background'

/** Which of the sums that lists have of a file from elsewhere are not its own. */
export async function holdSums({ payload, storage, progress }: BackgroundStep): Promise<readonly ExpectedSum[]> {
  const { root, path: below, fingerprint } = payload.source
  const file = storage.resolve(root, below)
  await checkFingerprint(file, fingerprint, below)
  return differing(file, payload.listed ?? [], () => progress(0))
}
