// NAL units, which the coded pictures of H.264 and HEVC are made of, and how files hold them.

/** How a codec's NAL units are told apart, for what goes beside its slices. */
export interface NalUnits {
  /** Bytes in front of what a unit holds. */
  readonly header: number
  /** Whether a unit holds messages, by its first byte. */
  isMessages(first: number): boolean
  /** Bytes of the length that stands before each unit where there is a configuration. */
  lengthSize(configuration: Uint8Array): number
}

/** Those of H.264 (table 7-1). */
export const avcUnits: NalUnits = {
  header: 1,
  isMessages: (first) => (first & 31) === 6,
  lengthSize: (configuration) => ((configuration[4] ?? 3) & 3) + 1,
}

/** Those of HEVC (H.265 table 7-1), of messages those in front of a picture. */
export const hevcUnits: NalUnits = {
  header: 2,
  isMessages: (first) => ((first >> 1) & 63) === 39,
  lengthSize: (configuration) => ((configuration[21] ?? 3) & 3) + 1,
}

/**
 * The NAL units of a byte stream (ITU-T H.264 Annex B), without start codes and the noughts between; nothing where
 * there is no start code.
 */
export function unitsOf(bytes: Uint8Array): Uint8Array[] {
  const out: Uint8Array[] = []
  let from = -1
  for (let i = 0; i + 2 < bytes.length; i++) {
    // a start code is two noughts and a one; where the third byte is more, none can begin before it
    const third = bytes[i + 2]!
    if (third > 1) {
      i += 2
      continue
    }
    if (third !== 1 || bytes[i] !== 0 || bytes[i + 1] !== 0) continue
    if (from >= 0) push(out, bytes, from, i)
    from = i + 3
    i += 2
  }
  if (from >= 0) push(out, bytes, from, bytes.length)
  return out
}

function push(out: Uint8Array[], bytes: Uint8Array, from: number, to: number): void {
  while (to > from && bytes[to - 1] === 0) to--
  if (to > from) out.push(bytes.subarray(from, to))
}

/**
 * NAL units behind their lengths (ISO/IEC 14496-15 5.3.4.2), up to a length that makes no sense or is of more than
 * there is: `brokenAt` is the byte behind it.
 */
export function countedUnits(
  bytes: Uint8Array,
  size: number,
): { readonly units: Uint8Array[]; readonly brokenAt: number | null } {
  const units: Uint8Array[] = []
  for (let at = 0; at + size < bytes.length;) {
    let length = 0
    for (let i = 0; i < size; i++) length = length * 256 + bytes[at + i]!
    at += size
    if (length === 0 || at + length > bytes.length) return { units, brokenAt: at }
    units.push(bytes.subarray(at, at + length))
    at += length
  }
  return { units, brokenAt: null }
}

/** The whole NAL units at the beginning of an access unit, as its file has them. */
export const nalUnits = (bytes: Uint8Array, configuration: Uint8Array | null, nal: NalUnits): Uint8Array[] =>
  configuration ? countedUnits(bytes, nal.lengthSize(configuration)).units : unitsOf(bytes)
