import { createHash } from 'node:crypto'
import { createXXHash64 } from 'hash-wasm'
import type { ChecksumName } from '../../core/files/checksums'
import { openFile } from './disk'

interface Hasher {
  update(bytes: Uint8Array): unknown
  digest(encoding: 'hex'): string
}

const hashers: Record<ChecksumName, () => Hasher | Promise<Hasher>> = {
  md5: () => createHash('md5'),
  sha1: () => createHash('sha1'),
  sha256: () => createHash('sha256'),
  xxh64: async () => (await createXXHash64()).init(),
}

/** Checksums of several kinds, as they were asked for. */
export type Sums<K extends ChecksumName> = Record<K, string>

/** The sums of a file, read once: lower-case hexadecimal digits. */
export async function sumsOfFile<K extends ChecksumName>(
  file: string,
  kinds: readonly K[],
  progress: () => void = () => undefined,
): Promise<Sums<K>> {
  const hashing = await Promise.all(kinds.map(async (kind) => ({ kind, hasher: await hashers[kind]() })))
  const source = await openFile(file)
  try {
    for (let at = 0; at < source.size; at += 4 << 20) {
      const bytes = await source.read(at, 4 << 20)
      for (const h of hashing) h.hasher.update(bytes)
      progress()
    }
  } finally {
    await source.close()
  }
  return Object.fromEntries(hashing.map((h) => [h.kind, h.hasher.digest('hex')])) as Sums<K>
}
