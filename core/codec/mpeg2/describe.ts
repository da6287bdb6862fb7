import type { Scan } from '../../media/media'
import { makeRate, type Rate } from '../../time/rate'
import type { PictureDescription } from '../codec'
import { StreamFault } from './bits'
import {
  partsOf,
  pictureExtended,
  pictureHead,
  sequenceExtended,
  sequenceHead,
  starts,
  type PictureHead,
  type Sequence,
} from './headers'

/** Frames a second by frame_rate_code (H.262 table 6-4). */
export const frameRates: readonly (readonly [number, number] | null)[] = [
  null,
  ...([
    [24000, 1001],
    [24, 1],
    [25, 1],
    [30000, 1001],
    [30, 1],
    [50, 1],
    [60000, 1001],
    [60, 1],
  ] as const),
]

/** How wide to how high a picture is shown, by aspect_ratio_information (table 6-3); 1 says square pixels. */
export const shapes: readonly (readonly [number, number] | null)[] = [null, null, [4, 3], [16, 9], [221, 100]]

/** Profiles and levels by their code (tables 8-2 and 8-3; of 4:2:2, table 8-4). */
const profiles: Readonly<Record<number, string>> = { 1: 'High', 2: 'Spatial', 3: 'SNR', 4: 'Main', 5: 'Simple' }
const levels: Readonly<Record<number, string>> = { 4: 'High', 6: 'High 1440', 8: 'Main', 10: 'Low' }
const of422: Readonly<Record<number, string>> = { 0x82: 'High', 0x85: 'Main' }

/** The level of a profile and level by their code. */
export const levelOf = (code: number): string | null => of422[code] ?? levels[code & 15] ?? null

/** Lines of pictures that carry lines of the blanking above them (SMPTE ST 356): where they begin, how many show. */
const blanked: Readonly<Record<number, readonly [from: number, height: number]>> = { 608: [32, 576], 512: [26, 486] }

/** What of a frame is its picture. */
export function shownLines({ width, height }: Pick<Sequence, 'width' | 'height'>): readonly [number, number] {
  return (width === 720 ? blanked[height] : undefined) ?? [0, height]
}

interface Heads {
  readonly sequence: Sequence
  readonly picture: PictureHead | null
}

/** The headers at the beginning of a unit; null where it has no sequence header, or is damaged there. */
function headsOf(bytes: Uint8Array): Heads | null {
  let sequence: Sequence | null = null
  let picture: PictureHead | null = null
  try {
    for (const part of partsOf(bytes)) {
      if (part.code === starts.sequence) sequence = sequenceHead(bytes, part)
      else if (part.code === starts.picture) picture = pictureHead(bytes, part)
      else if (part.code === starts.extension && picture) picture = pictureExtended(picture, bytes, part)
      else if (part.code === starts.extension && sequence) sequence = sequenceExtended(sequence, bytes, part)
      else if (part.code >= 1 && part.code <= 0xaf) break
    }
  } catch (e) {
    if (!(e instanceof StreamFault)) throw e
  }
  return sequence && { sequence, picture }
}

/** One picture does not tell whether those of an interlaced sequence are of one moment each: it is not said of them. */
function scanOf({ sequence, picture }: Heads): Scan {
  if (sequence.progressive) return 'progressive'
  if (!picture) return 'interlaced'
  const upperFirst = picture.structure === 3 ? picture.upperFirst : picture.structure === 1
  return upperFirst ? 'interlaced-tff' : 'interlaced-bff'
}

/** The shape of pixels, taken for square where it nearly is. */
const aspectOf = (r: Rate) => (Math.abs(r.num / r.den - 1) > 0.001 ? `${r.num}:${r.den}` : '1:1')

/** What the headers of a stream say of its pictures. */
export function describeMpeg2(configuration: Uint8Array | null, first: Uint8Array | null): PictureDescription {
  const heads = (first && headsOf(first)) ?? (configuration && headsOf(configuration))
  if (!heads) return {}
  const { sequence: s } = heads
  const code = s.profileLevel ?? 0
  const [, height] = shownLines(s)
  const told = frameRates[s.rateCode]
  const [more, less] = s.rateExtension
  const timing: Rate | null = told ? makeRate(told[0] * (more + 1), told[1] * (less + 1)) : null
  const shape = shapes[s.aspect]
  const wide = shape ? makeRate(shape[0] * height, shape[1] * s.width) : null
  return {
    profile: code & 0x80 ? (of422[code] ? '4:2:2' : null) : (profiles[code >> 4] ?? null),
    level: levelOf(code),
    width: s.width,
    height,
    scan: scanOf(heads),
    chroma: s.chroma === 1 ? '4:2:0' : s.chroma === 2 ? '4:2:2' : '4:4:4',
    bitDepth: 8,
    pixelAspect: s.aspect === 1 ? '1:1' : wide && aspectOf(wide),
    colour: s.colour && { ...s.colour, fullRange: false },
    timing,
    webCodec: null,
  }
}
