import { packPcm, unpackPcm } from '../../kernel/pcm'
import { fail } from '../../problem'
import type { PcmLayout } from '../../media/media'

/** Sound in memory: one array of samples a channel, full scale ±1. Integers up to 24 bits pass through unchanged. */
export type Channels = readonly Float32Array[]

type ReadSample = (view: DataView, at: number, littleEndian: boolean) => number

/** How one sample is read, by its kind and its bytes; integers of more than one are read by the kernel. */
const readers: Readonly<Record<string, ReadSample>> = {
  'float 4': (view, at, littleEndian) => view.getFloat32(at, littleEndian),
  'float 8': (view, at, littleEndian) => view.getFloat64(at, littleEndian),
  'aes3 4': (view, at) => ((view.getInt32(at, true) << 4) >> 8) / 8388608,
  'uint 1': (view, at) => (view.getUint8(at) - 128) / 128,
  'int 1': (view, at) => view.getInt8(at) / 128,
}

/** Decodes interleaved PCM into channels. */
export function decodePcm(bytes: Uint8Array, layout: PcmLayout): Float32Array[] {
  const { bytesPerSample: n, channels, kind, littleEndian } = layout
  if (kind === 'int' && (n === 2 || n === 3 || n === 4)) return unpackPcm(bytes, { bytes: n, channels, littleEndian })
  const read =
    readers[`${kind} ${n}`] ??
    fail('pcm.form', `Sound of ${8 * n} bits is not read here as ${kind}.`, undefined, 'Ask for linear PCM of 24 bits.')
  const step = n * channels
  const count = Math.floor(bytes.length / step)
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const out = Array.from({ length: channels }, () => new Float32Array(count))
  out.forEach((o, c) => {
    for (let i = 0, at = c * n; i < count; i++, at += step) o[i] = read(view, at, littleEndian)
  })
  return out
}

/** Encodes channels as interleaved 16- or 24-bit integers, rounding to nearest and holding at full scale. */
export function encodePcm(channels: Channels, bitDepth: 16 | 24, littleEndian: boolean): Uint8Array {
  const count = channels[0]?.length ?? 0
  if (channels.some((c) => c.length !== count))
    fail('internal.error', 'Channels of different length cannot be interleaved.')
  return packPcm(channels, bitDepth === 24 ? 3 : 2, littleEndian)
}
