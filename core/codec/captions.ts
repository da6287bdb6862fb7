import type { ByteSource } from '../bytes'
import type { DataInfo, VideoTrack } from '../media/media'

// Captions that are in the stream of pictures itself: `cc_data` of ATSC A/53 part 4, 6.2.3, which H.264 and HEVC have
// in messages registered by country and provider (ITU-T T.35), MPEG-2 in user data.

const name = [0x47, 0x41, 0x39, 0x34, 0x03]
const fronts = [
  [0xb5, 0x00, 0x31],
  [0x00, 0x00, 0x01, 0xb2],
]

const isAt = (bytes: Uint8Array, at: number, wanted: readonly number[]) =>
  at >= 0 && wanted.every((v, i) => bytes[at + i] === v)

/** Whether a coded picture has captions with it. */
export function carriesCaptions(unit: Uint8Array): boolean {
  for (let at = unit.indexOf(name[0]!); at >= 0; at = unit.indexOf(name[0]!, at + 1))
    if (isAt(unit, at, name) && fronts.some((f) => isAt(unit, at - f.length, f))) return true
  return false
}

/** Coded pictures that are looked at, and bytes of each: what goes with a picture stands in front of it. */
const [looked, most] = [3, 1 << 16]

/** Captions in the pictures of a track, as far as its first ones tell; null where these have none. */
export async function captionsIn(source: ByteSource, track: VideoTrack): Promise<DataInfo | null> {
  for (let i = 0; i < Math.min(looked, track.sampleCount); i++) {
    const { offset, size } = track.sample(i)
    if (carriesCaptions(await source.read(offset, Math.min(size, most))))
      return { kind: 'pictures', label: 'CEA-708 captions in its pictures', carries: [] }
  }
  return null
}
