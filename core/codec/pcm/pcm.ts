import { fail } from '../../problem'
import type { PcmLayout } from '../../media/media'

/** Sound in memory: one array of samples a channel, full scale ±1. Integers up to 24 bits pass through unchanged. */
export type Channels = readonly Float32Array[]

/** Decodes interleaved PCM into channels. */
export function decodePcm(bytes: Uint8Array, layout: PcmLayout): Float32Array[] {
  const { bytesPerSample: n, channels, kind, littleEndian } = layout
  const count = Math.floor(bytes.length / (n * channels))
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const out = Array.from({ length: channels }, () => new Float32Array(count))
  const scale = 1 / 2 ** (8 * n - 1)
  for (let c = 0; c < channels; c++) {
    const o = out[c]!
    let at = c * n
    const step = n * channels
    if (kind === 'float')
      for (let i = 0; i < count; i++, at += step)
        o[i] = n === 4 ? view.getFloat32(at, littleEndian) : view.getFloat64(at, littleEndian)
    else if (n === 1)
      for (let i = 0; i < count; i++, at += step)
        o[i] = kind === 'uint' ? (bytes[at]! - 128) * scale : view.getInt8(at) * scale
    else if (n === 2) for (let i = 0; i < count; i++, at += step) o[i] = view.getInt16(at, littleEndian) * scale
    else if (n === 3) {
      const [hi, lo] = littleEndian ? [2, 0] : [0, 2]
      for (let i = 0; i < count; i++, at += step)
        o[i] = (((bytes[at + hi]! << 24) >> 8) | (bytes[at + 1]! << 8) | bytes[at + lo]!) * scale
    } else for (let i = 0; i < count; i++, at += step) o[i] = view.getInt32(at, littleEndian) * scale
  }
  return out
}

/** Encodes channels as interleaved 16- or 24-bit integers, rounding to nearest and holding at full scale. */
export function encodePcm(channels: Channels, bitDepth: 16 | 24, littleEndian: boolean): Uint8Array {
  const count = channels[0]?.length ?? 0
  if (channels.some((c) => c.length !== count))
    fail('internal.error', 'Channels of different length cannot be interleaved.')
  const n = bitDepth / 8
  const step = n * channels.length
  const out = new Uint8Array(count * step)
  const full = 2 ** (bitDepth - 1)
  channels.forEach((c, k) => {
    for (let i = 0, at = k * n; i < count; i++, at += step) {
      const v = Math.max(-full, Math.min(full - 1, Math.round(c[i]! * full)))
      if (n === 3) {
        out[at + 1] = v >> 8
        if (littleEndian) {
          out[at] = v
          out[at + 2] = v >> 16
        } else {
          out[at] = v >> 16
          out[at + 2] = v
        }
      } else {
        out[at] = littleEndian ? v : v >> 8
        out[at + 1] = littleEndian ? v >> 8 : v
      }
    }
  })
  return out
}
