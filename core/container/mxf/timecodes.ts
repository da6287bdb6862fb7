import { readExactly, type ByteSource } from '../../bytes'
import { pictureCodec } from '../../codec/registry'
import type { VideoTrack } from '../../media/media'
import type { FrameTimecode } from '../../media/timecodes'
import type { Frames } from '../../time/rate'
import type { Elements } from './elements'

// Timecodes that MXF files repeat with their frames, besides those in ancillary packets.

/** Bytes of a picture in which its headers are looked for. */
const heads = 4096

/** All there are of a file whose programme begins with so many frames of its essence left out. */
export function frameTimecodes(
  source: ByteSource,
  system: Elements | null,
  pictures: VideoTrack | undefined,
  start: Frames,
): FrameTimecode[] {
  return [...(system ? [inSystem(source, system, start)] : []), ...(pictures ? inPictures(source, pictures) : [])]
}

/** The user date and time stamp of a system item's pack (SMPTE ST 385 5.3, ST 331 8.2): a timecode in binary groups. */
function inSystem(source: ByteSource, { count, at, size }: Elements, start: Frames): FrameTimecode {
  /** Where the stamp is: behind what is in the package, its rate, its kind, a count, a label, and the first stamp. */
  const place = 1 + 1 + 1 + 2 + 2 + 16 + 17
  const label = (bytes: Uint8Array) => {
    const stamp = bytes.subarray(place, place + 17)
    if (stamp.length < 5 || stamp[0] !== 0x81) return null
    const digits = (v: number, most: number) => `${(v >> 4) & most}${v & 15}`
    const [f, s, m, h] = [...stamp.subarray(1, 5)] as [number, number, number, number]
    return [digits(h, 3), digits(m, 7), digits(s, 7), digits(f, 3)].join(':')
  }
  return {
    where: 'in system items',
    binary: true,
    async *walk(range) {
      for (let frame = range.in; frame < Math.min(range.out, count - start); frame++)
        yield { frame, label: label(await readExactly(source, at(start + frame), size(start + frame))) }
    },
  }
}

/** Timecodes of a codec's own, in front of its groups of pictures. */
function inPictures(source: ByteSource, track: VideoTrack): FrameTimecode[] {
  const read = pictureCodec(track.info.codec)?.groupTimecode
  if (!read) return []
  const perFrame = track.timescale / (track.info.rate.num / track.info.rate.den)
  return [
    {
      where: 'in the pictures',
      binary: false,
      async *walk(range) {
        for (let i = 0; i < track.sampleCount; i++) {
          const { sync, offset, size, pts } = track.sample(i)
          if (!sync) continue
          const own = read(await readExactly(source, offset, Math.min(size, heads)))
          const frame = own ? Math.round(pts / perFrame) - own.before : -1
          if (own && frame >= range.in && frame < range.out) yield { frame, label: own.label }
        }
      },
    },
  ]
}
