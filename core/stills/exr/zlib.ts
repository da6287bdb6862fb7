import { concatBytes } from '../../bytes'

// The zlib format (RFC 1950), by what every runtime brings.

/** All that comes out of a stream that bytes are put into; null where it breaks off or gives more than `most`. */
async function through(
  stream: CompressionStream | DecompressionStream,
  bytes: Uint8Array,
  most = Infinity,
): Promise<Uint8Array | null> {
  const writer = stream.writable.getWriter()
  // whatever goes wrong is met where the other end is read
  writer.write(bytes as Uint8Array<ArrayBuffer>).catch(() => undefined)
  writer.close().catch(() => undefined)
  const reader = (stream.readable as ReadableStream<Uint8Array>).getReader()
  const parts: Uint8Array[] = []
  let length = 0
  try {
    for (let r = await reader.read(); !r.done; r = await reader.read()) {
      parts.push(r.value)
      length += r.value.length
      if (length > most) {
        await reader.cancel()
        return null
      }
    }
  } catch {
    return null
  }
  return concatBytes(parts)
}

export async function deflate(bytes: Uint8Array): Promise<Uint8Array> {
  return (await through(new CompressionStream('deflate'), bytes))!
}

/** Inflates to no more than `most` bytes; null where the bytes are damaged or hold more. */
export function inflate(bytes: Uint8Array, most: number): Promise<Uint8Array | null> {
  return through(new DecompressionStream('deflate'), bytes, most)
}
