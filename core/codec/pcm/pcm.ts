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
    else if (kind === 'aes3')
      for (let i = 0; i < count; i++, at += step) o[i] = ((view.getInt32(at, true) << 4) >> 8) / 8388608
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
  const pack = n === 3 ? pack24 : pack16
  channels.forEach((c, k) => pack(c, out, k * n, step, littleEndian))
  return out
}

/** The nearest of so many steps each way, half up; what is beyond full scale is held there. */
export function stepped(v: number, full: number): number {
  const s = Math.floor(v * full + 0.5)
  return s >= full ? full - 1 : s < -full ? -full : s
}

function pack24(c: Float32Array, out: Uint8Array, at: number, step: number, littleEndian: boolean): void {
  const [high, low] = littleEndian ? [2, 0] : [0, 2]
  for (let i = 0; i < c.length; i++, at += step) {
    const v = stepped(c[i]!, 8388608)
    out[at + high] = v >> 16
    out[at + 1] = v >> 8
    out[at + low] = v
  }
}

function pack16(c: Float32Array, out: Uint8Array, at: number, step: number, littleEndian: boolean): void {
  const [high, low] = littleEndian ? [1, 0] : [0, 1]
  for (let i = 0; i < c.length; i++, at += step) {
    const v = stepped(c[i]!, 32768)
    out[at + high] = v >> 8
    out[at + low] = v
  }
}
