import { stat } from 'node:fs/promises'
import { createXXHash64, xxhash64 } from 'hash-wasm'
import { fail } from '../../core/problem'
import { isAlike, type Fingerprint } from '../../core/media/fingerprint'
import { rateText } from '../../core/time/rate'
import { openFile } from './disk'
import { filesOf, rateOfRun } from '../../core/files/fileset'
import { statMedia } from './fileset'

const piece = 1 << 16
const samples = 16

/** Hashes the ends of a file (where its index lies) and pieces spread over its essence. */
export async function fingerprintOf(file: string): Promise<Fingerprint> {
  const files = filesOf(file)
  if (files) return fingerprintOfSet(file, files)
  const info = await stat(file)
  const source = await openFile(file)
  try {
    const hash = await createXXHash64()
    hash.init()
    for (let i = 0; i <= samples; i++) {
      const at = Math.max(0, Math.floor(((info.size - piece) * i) / samples))
      hash.update(await source.read(at, piece))
      if (info.size <= piece) break
    }
    return taken(info.size, Math.round(info.mtimeMs), hash.digest())
  } finally {
    await source.close()
  }
}

/** Media that was written to since is other media, though what was looked at of it is the same. */
const taken = async (size: number, modified: number, samples: string): Promise<Fingerprint> => ({
  ...{ size, modified, samples },
  content: await xxhash64(`${samples} ${modified}`),
})

/** Hashes pieces of several files that are one; stills that run at another rate are other media. */
async function fingerprintOfSet(name: string, files: readonly string[]): Promise<Fingerprint> {
  const { size, modified } = await statMedia(name)
  const hash = await createXXHash64()
  hash.init()
  const rate = rateOfRun(name)
  if (rate) hash.update(rateText(rate))
  for (let i = 0; i <= samples; i++) {
    const file = files[Math.floor(((files.length - 1) * i) / samples)]!
    const source = await openFile(file)
    hash.update(await source.read(0, piece))
    hash.update(await source.read(Math.max(0, Math.floor(source.size / 2)), piece))
    await source.close()
  }
  return taken(size, modified, hash.digest())
}

/** Throws when a file is not the one that was fingerprinted. */
export async function checkFingerprint(file: string, fingerprint: Fingerprint, name: string): Promise<void> {
  const info = await statMedia(file)
  if (info.size === fingerprint.size && info.modified === fingerprint.modified) return
  if (!isAlike(await fingerprintOf(file), fingerprint)) {
    fail(
      'media.replaced',
      'The media file has changed since it was brought in.',
      name,
      'Bring in the new file as a new timeline, or put the old one back.',
    )
  }
}
