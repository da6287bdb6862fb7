import { kernel } from './kernel'

// Sound between numbers of full scale 1 and interleaved integers. Each plainly, and by the kernel where there is one;
// both the same.

/** Interleaved integers: how many bytes each has, of how many channels, and whether the lowest byte comes first. */
export interface PcmShape {
  readonly bytes: 2 | 3 | 4
  readonly channels: number
  readonly littleEndian: boolean
}

/** The nearest of so many steps each way, half up; what is beyond full scale is held there. */
export function stepped(v: number, full: number): number {
  const s = Math.floor(v * full + 0.5)
  return s >= full ? full - 1 : s < -full ? -full : s
}

/** Channels of one length as integers of 2 or 3 bytes. */
export function packPcmPlain(channels: readonly Float32Array[], bytes: 2 | 3, littleEndian: boolean): Uint8Array {
  const step = bytes * channels.length
  const full = 2 ** (8 * bytes - 1)
  const out = new Uint8Array((channels[0]?.length ?? 0) * step)
  channels.forEach((c, k) => {
    for (let i = 0, at = k * bytes; i < c.length; i++, at += step) {
      const v = stepped(c[i]!, full)
      for (let b = 0; b < bytes; b++) out[at + (littleEndian ? b : bytes - 1 - b)] = v >> (8 * b)
    }
  })
  return out
}
export function packPcm(channels: readonly Float32Array[], bytes: 2 | 3, littleEndian: boolean): Uint8Array {
  const fast = kernel()
  const count = channels[0]?.length ?? 0
  if (!fast || count === 0) return packPcmPlain(channels, bytes, littleEndian)
  const out = new Uint8Array(count * bytes * channels.length)
  const places = fast.hold(channels, out.length)
  const [first, second] = places as [number, number]
  const to = places.at(-1)!
  fast.run.packPcm(first, second - first, count, channels.length, bytes, littleEndian, to)
  fast.take(to, out)
  return out
}

/** As many samples of each channel as there are whole frames. */
export function unpackPcmPlain(from: Uint8Array, { bytes, channels, littleEndian }: PcmShape): Float32Array[] {
  const step = bytes * channels
  const count = Math.floor(from.length / step)
  const scale = 1 / 2 ** (8 * bytes - 1)
  return Array.from({ length: channels }, (_, c) =>
    Float32Array.from({ length: count }, (_, i) => {
      let v = 0
      for (let b = 0; b < bytes; b++) v |= from[i * step + c * bytes + (littleEndian ? b : bytes - 1 - b)]! << (8 * b)
      return ((v << (32 - 8 * bytes)) >> (32 - 8 * bytes)) * scale
    }),
  )
}
export function unpackPcm(from: Uint8Array, shape: PcmShape): Float32Array[] {
  const fast = kernel()
  const count = Math.floor(from.length / (shape.bytes * shape.channels))
  if (!fast || count === 0) return unpackPcmPlain(from, shape)
  const out = Array.from({ length: shape.channels }, () => new Float32Array(count))
  const [at, ...to] = fast.hold([from], ...out.map((c) => c.byteLength)) as [number, ...number[]]
  const stride = (to[1] ?? to[0]!) - to[0]!
  fast.run.unpackPcm(at, count, shape.channels, shape.bytes, shape.littleEndian, to[0]!, stride)
  out.forEach((c, i) => fast.take(to[i]!, c))
  return out
}
