import { readExactly } from '../../bytes'
import type { Media, VideoTrack } from '../../media/media'
import type { Picture } from '../../picture/picture'
import { fail } from '../../problem'
import type { FrameRange } from '../../time/range'
import { makeRate, type Frames, type Rate } from '../../time/rate'
import type { PictureCodec, PictureDescription } from '../codec'
import { decodeFrame } from './decode'
import { FrameFault, frameHead, type FrameHead } from './headers'
import { frameRates, shapes } from './tables'

/** The shape of pixels, taken for square where it nearly is; null where a frame does not say one. */
function aspectOf({ aspect, width, height }: FrameHead): string | null {
  const shape = shapes[aspect]
  if (!shape) return aspect === 1 ? '1:1' : null
  const wide: Rate = makeRate(shape[0] * height, shape[1] * width)
  return Math.abs(wide.num / wide.den - 1) > 0.001 ? `${wide.num}:${wide.den}` : '1:1'
}

/** A code of H.273; 0 says nothing, as 2 does. */
const coded = (v: number) => (v === 0 ? 2 : v)

const scans = { none: 'progressive', 'upper first': 'interlaced-tff', 'lower first': 'interlaced-bff' } as const

function describe(_: Uint8Array | null, first: Uint8Array | null): PictureDescription {
  let head: FrameHead
  try {
    if (!first) return {}
    head = frameHead(first)
  } catch (e) {
    if (!(e instanceof FrameFault)) throw e
    return {}
  }
  const { width, height, chroma, colour, rate, fields, alpha } = head
  const [primaries, transfer, matrix] = [coded(colour.primaries), coded(colour.transfer), coded(colour.matrix)]
  const told = frameRates[rate]
  return {
    ...{ width, height, chroma, scan: scans[fields] },
    // a frame has no depth of its own: what its kinds are made of
    bitDepth: chroma === '4:4:4' ? 12 : 10,
    ...(alpha ? { alpha: true as const } : {}),
    pixelAspect: aspectOf(head),
    colour: [primaries, transfer, matrix].every((c) => c === 2)
      ? null
      : { primaries, transfer, matrix, fullRange: false },
    timing: told ? makeRate(...told) : null,
    webCodec: null,
  }
}

/** The picture of a frame that begins at a byte of its file. */
function decoded(unit: Uint8Array, frame: Frames, offset: number, where: string): Picture {
  try {
    return decodeFrame(unit)
  } catch (e) {
    if (!(e instanceof FrameFault)) throw e
    return fail(
      'media.undecodable',
      `Frame ${frame} of RDD 36 cannot be decoded: ${e.message} (byte ${offset + e.byte} of the file).`,
      where,
      'The file is damaged there; copy it again from where it came from.',
    )
  }
}

async function* read(media: Media, track: VideoTrack, range: FrameRange) {
  for (let frame = range.in; frame < range.out; frame++) {
    const { offset, size } = track.sample(track.sampleOfFrame(frame))
    const unit = await readExactly(media.source, offset, size)
    yield { frame, picture: decoded(unit, frame, offset, media.source.name) }
  }
}

/**
 * SMPTE RDD 36:2015 in our own code, read alone: intra pictures of 4:2:2 and 4:4:4, frames and fields; of 4:4:4 and of
 * more than 10 bits, 4:2:2 of 10 bits is what comes out. The code of a MOV says which kind it is.
 */
export const rdd36: PictureCodec = {
  name: 'rdd36',
  label: 'RDD 36',
  calls: {
    mp4: {
      entries: ['apch', 'apcn', 'apcs', 'apco', 'ap4x', 'ap4h'],
      inStream: true,
      brands: ['mov'],
      profiles: {
        ...{ apch: '422 HQ', apcn: '422', apcs: '422 LT', apco: '422 Proxy' },
        ...{ ap4x: '4444 XQ', ap4h: '4444' },
      },
    },
  },
  describe,
  decode: {
    needsWeb: false,
    open: (media, track) => ({ frames: track.info.frames, read: (range) => read(media, track, range) }),
  },
}
