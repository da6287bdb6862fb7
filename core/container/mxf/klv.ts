import { concatBytes, Writer } from '../../bytes'
import { bytesOf, keys } from './labels'

// Keys, lengths and values (SMPTE ST 336), as they are written here: lengths of four bytes throughout.

/** Bytes of a key and its length. */
export const headBytes = 20
/** Longest value that a length of four bytes tells. */
const longest = 0xffffff

/** A key and its length; a value follows. */
export function klvHead(key: string, length: number): Uint8Array {
  if (length > longest) throw new RangeError(`A value of ${length} bytes is too long for its length field.`)
  return new Writer().raw(bytesOf(key)).u8(0x83).u24(length).bytes()
}

export function klv(key: string, value: Uint8Array): Uint8Array {
  return concatBytes([klvHead(key, value.length), value])
}

/**
 * The next place on a grid of `unit` bytes that fill reaches from `at`: there, or far enough for a key and a length.
 */
export function aligned(at: number, unit: number): number {
  const next = Math.ceil(at / unit) * unit
  return next === at || next - at >= headBytes ? next : next + unit
}

/** Fill of so many bytes, its key and length included; none of none. */
export function fill(bytes: number): Uint8Array {
  return bytes === 0 ? new Uint8Array(0) : klv(keys.fill, new Uint8Array(bytes - headBytes))
}
