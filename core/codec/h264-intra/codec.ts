import { readExactly, sameBytes } from '../../bytes'
import { bt709 } from '../../media/colour'
import type { Media, VideoTrack } from '../../media/media'
import { toChroma420Of } from '../../picture/fields'
import { toChroma422, toDepth, type Picture } from '../../picture/picture'
import { fail } from '../../problem'
import type { FrameRange } from '../../time/range'
import type { Encoder, PictureCodec, PictureEncoderSettings, PictureShape } from '../codec'
import { plainEncoder } from '../plain'
import { parseAvcConfiguration, parseAvcSps } from '../h264/describe'
import { isAlone } from '../h264/unit'
import { classOfWidth, needClass } from './class'
import { ConstantSize } from './constantsize'
import { avcUnits, countedUnits, unitsOf } from '../nal'
import { IntraDecoder } from './decode'
import { IntraEncoder } from './encode'
import { isIntra } from './parameters'
import { SliceFault } from './slicebits'
import { profileOf } from './write'

/** What MXF calls intra pictures of H.264, without the byte in which registers' versions differ. */
const coding = '060e2b34040101' + '040102020132'
const profiles = ['20', '21', '30', '31']

/** Lines of a frame in whole macroblocks: of each field, where there are two. */
function codedLines({ height, scan }: PictureShape): number {
  const unit = scan === 'progressive' ? 16 : 32
  return Math.ceil(height / unit) * unit
}

async function* read(media: Media, track: VideoTrack, range: FrameRange) {
  const decoder = new IntraDecoder()
  const sets = track.configuration ? parseAvcConfiguration(track.configuration) : null
  // a picture that stays is two units in turn
  let before: { bytes: Uint8Array; picture: Picture }[] = []
  for (let frame = range.in; frame < range.out; frame++) {
    const s = track.sample(track.sampleOfFrame(frame))
    const bytes = await readExactly(media.source, s.offset, s.size)
    try {
      const units = sets ? [...sets.sps, ...sets.pps, ...counted(bytes, sets.lengthSize)] : unitsOf(bytes)
      const whole = [7, 8].every((type) => units.some((u) => (u[0]! & 31) === type))
      const known = whole ? before.find((b) => sameBytes(b.bytes, bytes)) : undefined
      const picture = known?.picture ?? decoder.decode(units)
      before = [{ bytes, picture }, ...before.slice(0, 1)]
      yield { frame, picture }
    } catch (e) {
      if (!(e instanceof SliceFault)) throw e
      if (e.unread)
        fail(
          'codec.unread',
          `Frame ${frame} cannot be decoded here: ${e.message}.`,
          media.source.name,
          'Ask for class 100 or 50, or for another master.',
        )
      fail(
        'media.undecodable',
        `Frame ${frame} cannot be decoded: ${e.message} (byte ${s.offset} of the file).`,
        media.source.name,
        'The file is damaged there; copy it again from where it came from.',
      )
    }
  }
}

/** NAL units behind their lengths, all of them. */
function counted(bytes: Uint8Array, size: number): Uint8Array[] {
  const { units, brokenAt } = countedUnits(bytes, size)
  if (brokenAt !== null) throw new SliceFault('the length of a NAL unit', brokenAt * 8)
  return units
}

/**
 * Intra pictures of H.264 in our own code: High 10 Intra and High 4:2:2 Intra (ITU-T H.264 A.2.8, A.2.9), written as
 * classes 100 and 50 of SMPTE RP 2027. Of what is read, depth and chroma stay what they are.
 */
export const h264Intra: PictureCodec = {
  name: 'h264-intra',
  label: 'H.264 intra',
  calls: {
    mxf: {
      entries: profiles.flatMap((p) => Array.from({ length: 16 }, (_, n) => `${coding}${p}0${n.toString(16)}`)),
      written(shape) {
        const { of, label } = needClass(shape)
        const values = {
          avcDelay: Uint8Array.of(0),
          avcProfile: Uint8Array.of(profileOf(of)),
          avcLevel: Uint8Array.of(of.level(shape.height)),
        }
        return {
          wrapping: '060e2b340401010a0d01030102106001',
          coding: `060e2b340401010a040102020132${of.label}0${label}`,
          lines: codedLines(shape),
          further: [{ kind: 'avc', values }],
          d10: false,
        }
      },
    },
  },
  describe(configuration, first) {
    const units = first ? unitsOf(first) : []
    const of = (type: number) => units.filter((u) => (u[0]! & 31) === type)
    const sets = configuration ? parseAvcConfiguration(configuration) : { sps: of(7), pps: of(8) }
    const p = sets.sps[0] ? parseAvcSps(sets.sps[0]) : null
    if (!p) return {}
    // what is coded in ways that are not decoded here is for the codec package, in its depth
    const other: { codec?: string } = isIntra(sets) ? {} : { codec: 'h264' }
    const { profile, level, width, height, chroma, bitDepth, pixelAspect, colour } = p
    const scan = p.frameMbsOnly ? 'progressive' : 'interlaced'
    return {
      profile,
      level,
      width,
      height,
      chroma,
      bitDepth,
      pixelAspect,
      colour,
      scan,
      ...other,
      webCodec: other.codec ? p.webCodec : null,
    }
  },
  nal: avcUnits,
  isAlone,
  decode: {
    needsWeb: false,
    open: (media, track) => ({ frames: track.info.frames, read: (range) => read(media, track, range) }),
  },
  encode: {
    needsWeb: false,
    bitDepth: 10,
    as({ width, height }) {
      const { chroma, profile, level } = classOfWidth(width)
      return { chroma, profile, level: (level(height) / 10).toFixed(1) }
    },
    speed: { make: 8, prove: 9 },
    frameBytes: (shape) => needClass(shape).bytes,
    open: openClass,
  },
}

/** Makes pictures of a class, each of its size. */
function openClass(s: PictureEncoderSettings): Encoder<Picture> {
  const { width, height, rate, colour, scan = 'progressive', first = 0 } = s
  const { of, bytes } = needClass({ width, height, rate, scan })
  const { arithmetic, pixelAspect } = of
  const fields = scan === 'progressive' ? null : scan === 'interlaced-bff' ? 'bottom' : 'top'
  const chroma = of.chroma === '4:2:0' ? 1 : 2
  const level = of.level(height)
  const format = { width, height, rate, fields, depth: 10, chroma, level, arithmetic, pixelAspect } as const
  const encoder = new IntraEncoder({ ...format, colour: colour ?? bt709 }, first)
  const sized = new ConstantSize(encoder, bytes, { slices: 8 })
  const toChroma = chroma === 2 ? toChroma422 : (p: Picture) => toChroma420Of(p, scan)
  let still: { of: Picture; readonly units: Uint8Array[] } | null = null
  return plainEncoder((picture) => {
    encoder.load(toChroma(toDepth(picture, 10)))
    // a picture that stays is two units in turn: those next to each other have other numbers
    if (still?.of !== picture) still = { of: picture, units: [] }
    return (still.units[encoder.number % 2] ??= sized.next())
  })
}
