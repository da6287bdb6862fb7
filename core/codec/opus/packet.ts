import type { Samples } from '../../time/rate'

/** Bytes of a packet that tell how long it is. */
export const opusHeadBytes = 2

/** Samples of an Opus packet at 48 kHz, from its first bytes (RFC 6716 3.1); null when there are none. */
export function opusPacketLength(head: Uint8Array): Samples | null {
  const toc = head[0]
  if (toc === undefined) return null
  const config = toc >> 3
  const frame =
    config < 12
      ? [480, 960, 1920, 2880][config & 3]!
      : config < 16
        ? [480, 960][config & 1]!
        : [120, 240, 480, 960][config & 3]!
  return frame * ([1, 2, 2, (head[1] ?? 0) & 0x3f][toc & 3] || 1)
}
