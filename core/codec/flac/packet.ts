import type { Samples } from '../../time/rate'

/** Bytes of a frame's header that tell how long it is, at most. */
export const flacHeadBytes = 13

/** Samples of a FLAC frame by its header (RFC 9639 9.1); null where it is none. */
export function flacPacketLength(head: Uint8Array): Samples | null {
  if (head.length < 5 || head[0] !== 0xff || (head[1]! & 0xfe) !== 0xf8) return null
  const size = head[2]! >> 4
  if (size === 0) return null
  if (size === 1) return 192
  if (size < 6) return 144 << size
  if (size > 7) return 1 << size
  // the size is written out behind the number of the frame or sample, which is coded like a character of UTF-8
  const at = 4 + Math.max(1, Math.clz32(~(head[4]! << 24)))
  return (size === 6 ? head[at]! : head[at]! * 256 + head[at + 1]!) + 1
}
