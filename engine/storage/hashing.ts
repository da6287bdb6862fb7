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

/** Sums of several kinds at once: lower-case hexadecimal digits. */
async function hashing<K extends ChecksumName>(kinds: readonly K[]) {
  const all = await Promise.all(kinds.map(async (kind) => ({ kind, hasher: await hashers[kind]() })))
  return {
    feed: (bytes: Uint8Array) => all.forEach((h) => h.hasher.update(bytes)),
    sums: () => Object.fromEntries(all.map((h) => [h.kind, h.hasher.digest('hex')])) as Record<K, string>,
  }
}

export async function sumsOfBytes<K extends ChecksumName>(
  bytes: Uint8Array,
  kinds: readonly K[],
): Promise<Record<K, string>> {
  const hash = await hashing(kinds)
  hash.feed(bytes)
  return hash.sums()
}

/** The sums of files as if they were one after the other in one, read once; `progress` is told while they are read. */
export async function sumsOfFiles<K extends ChecksumName>(
  files: readonly string[],
  kinds: readonly K[],
  progress: () => void = () => undefined,
): Promise<Record<K, string>> {
  const hash = await hashing(kinds)
  for (const file of files) {
    const source = await openFile(file)
    try {
      for (let at = 0; at < source.size; at += 4 << 20) {
        hash.feed(await source.read(at, 4 << 20))
        progress()
      }
    } finally {
      await source.close()
    }
  }
  return hash.sums()
}

/** The sums of a file. */
export const sumsOfFile = <K extends ChecksumName>(file: string, kinds: readonly K[], progress?: () => void) =>
  sumsOfFiles([file], kinds, progress)
