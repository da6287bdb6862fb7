import type { ByteSource } from '../bytes'
import type { CaptionPair } from '../media/captions/cdp'
import type { DataInfo, VideoTrack } from '../media/media'

// Captions that are in the stream of pictures itself: `cc_data` of ATSC A/53 part 4, 6.2.3, which H.264 and HEVC have
// in messages registered by country and provider (ITU-T T.35), MPEG-2 in user data.

const name = [0x47, 0x41, 0x39, 0x34, 0x03]
const fronts = [
  { bytes: [0xb5, 0x00, 0x31], escaped: true },
  { bytes: [0x00, 0x00, 0x01, 0xb2], escaped: false },
]

/** Coded pictures that are looked at, and bytes of each: what goes with a picture stands in front of it. */
const [looked, most] = [3, 1 << 16]

const isAt = (bytes: Uint8Array, at: number, wanted: readonly number[]) =>
  at >= 0 && wanted.every((v, i) => bytes[at + i] === v)

/** As many bytes from a place on, without those that keep start codes out of a message (H.264 7.4.1). */
function bytesAt(unit: Uint8Array, from: number, count: number, escaped: boolean): number[] {
  const out: number[] = []
  let noughts = 0
  for (let at = from; at < unit.length && out.length < count; at++) {
    const byte = unit[at]!
    if (escaped && noughts >= 2 && byte === 3) {
      noughts = 0
      continue
    }
    noughts = byte === 0 ? noughts + 1 : 0
    out.push(byte)
  }
  return out
}

/** The captions of a coded picture that are filled; null of one that has none with it. */
export function captionsOf(whole: Uint8Array): CaptionPair[] | null {
  const unit = whole.subarray(0, most)
  const out: CaptionPair[] = []
  let there = false
  for (let at = unit.indexOf(name[0]!); at >= 0; at = unit.indexOf(name[0]!, at + 1)) {
    const front = isAt(unit, at, name) && fronts.find((f) => isAt(unit, at - f.bytes.length, f.bytes))
    if (!front) continue
    there = true
    const [marks = 0, , ...data] = bytesAt(unit, at + name.length, 2 + 31 * 3, front.escaped)
    const count = marks & 0x40 ? marks & 31 : 0
    for (let i = 0; i < count && 3 * i + 2 < data.length; i++) {
      const [own, a, b] = data.slice(3 * i) as [number, number, number]
      if (own & 4) out.push({ type: (own & 3) as CaptionPair['type'], bytes: [a, b] })
    }
  }
  return there ? out : null
}

/** Captions in coded pictures, among what a file has besides pictures and sound. */
export const pictureCaptions: DataInfo = { kind: 'pictures', label: 'CEA-708 captions in its pictures', carries: [] }

/** Captions in the pictures of a track, as far as its first ones tell; null where these have none. */
export async function captionsIn(source: ByteSource, track: VideoTrack): Promise<DataInfo | null> {
  for (let i = 0; i < Math.min(looked, track.sampleCount); i++) {
    const { offset, size } = track.sample(i)
    if (captionsOf(await source.read(offset, Math.min(size, most)))) return pictureCaptions
  }
  return null
}
