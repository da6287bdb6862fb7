import { pictureCodec } from '../../codec/registry'
import { bt709 } from '../../media/colour'
import { aspectValue } from '../../media/aspect'
import { fail } from '../../problem'
import type { AudioEssence, UnitPlan, VideoEssence } from '../container'
import { colourLabels, definitions, wrappings } from './labels'
import { value, type MetadataSet } from './sets'
import type { Property, SetKind } from './tags'

/** One track of a file as MXF has it: its key, its number, and its descriptor. */
export interface Essence {
  readonly key: string
  readonly number: number
  readonly definition: string
  readonly wrapping: string
  readonly kind: SetKind
  readonly values: MetadataSet['values']
  readonly further: readonly Omit<MetadataSet, 'id'>[]
  /** Bytes of the element of each frame: all alike, or as many as the longest. */
  readonly most: number
}

/** Full frames, separate fields, fields of both orders, segmented frames (ST 377-1 annex G.2.1). */
const frameLayouts = { progressive: 0, segmented: 4, 'interlaced-tff': 1, 'interlaced-bff': 1, interlaced: 3 } as const

/** Kinds of generic-container elements: pictures and sound, frame by frame (ST 379-2, ST 381-3, ST 382). */
const elements = { picture: 0x15010500, sound: 0x16000100 } as const

const keyOf = (number: number) => `060e2b34010201010d010301${number.toString(16).padStart(8, '0')}`

/** The pictures and sound tracks of a file, each channel a track of its own. */
export function essenceOf(plan: UnitPlan): Essence[] {
  const channels = plan.sound?.channels ?? 0
  const sound = Array.from({ length: channels }, (_, i) => soundTrack(plan, plan.sound!, i, channels))
  return [pictureTrack(plan, plan.video), ...sound]
}

function pictureTrack(plan: UnitPlan, v: VideoEssence): Essence {
  const codec = pictureCodec(v.codec)
  const described =
    codec?.calls.mxf?.written ??
    fail(
      'mxf.no-entry',
      `Pictures of kind “${codec?.label ?? v.codec}” cannot be written into MXF here.`,
      undefined,
      'Choose another recipe.',
    )
  const encode = codec!.encode!
  const interlaced = v.scan !== 'progressive'
  const shape = { width: v.width, height: v.height, rate: plan.rate, scan: v.scan }
  const stored = Math.ceil(v.height / (interlaced ? 32 : 16)) * 16
  const colour = v.colour ?? bt709
  const wide = (v.width / v.height) * aspectValue(v.pixelAspect)
  const number = elements.picture + 1
  const levels = 1 << (encode.bitDepth - 8)
  return {
    key: keyOf(number),
    number,
    definition: definitions.picture,
    wrapping: described.wrapping,
    kind: 'mpeg',
    values: {
      frameLayout: value.u8(frameLayouts[v.scan]),
      storedWidth: value.u32(Math.ceil(v.width / 16) * 16),
      storedHeight: value.u32(stored),
      sampledWidth: value.u32(v.width),
      sampledHeight: value.u32(interlaced ? v.height / 2 : v.height),
      displayWidth: value.u32(v.width),
      displayHeight: value.u32(interlaced ? v.height / 2 : v.height),
      displayX: value.u32(0),
      displayY: value.u32(0),
      aspectRatio: value.rational(
        Math.abs(wide - 16 / 9) < 0.01 ? { num: 16, den: 9 } : { num: v.width, den: v.height },
      ),
      lineMap: value.list(lineMap(v).map(value.u32), 4),
      ...(interlaced ? { fieldDominance: value.u8(v.scan === 'interlaced-bff' ? 2 : 1) } : {}),
      pictureCoding: value.label(described.coding(shape)),
      componentDepth: value.u32(encode.bitDepth),
      horizontalSubsampling: value.u32(2),
      verticalSubsampling: value.u32(encode.chroma === '4:2:0' ? 2 : 1),
      colourSiting: value.u8(0),
      blackLevel: value.u32(16 * levels),
      whiteLevel: value.u32(235 * levels),
      colourRange: value.u32(224 * levels + 1),
      ...colourValues(colour),
    },
    further: described.further,
    most: plan.pictureBytes,
  }
}

/** The first active line of each field (ST 274, ST 296); lines of other heights are counted from one. */
function lineMap({ height, scan }: VideoEssence): number[] {
  if (height === 1080) return scan === 'progressive' ? [42, 0] : [21, 584]
  if (height === 720) return [26, 0]
  return scan === 'progressive' ? [1, 0] : [1, height / 2 + 1]
}

function soundTrack(plan: UnitPlan, a: AudioEssence, i: number, channels: number): Essence {
  const number = elements.sound + (channels << 16) + i + 1
  let most = 0
  for (let n = 0; n < Math.min(plan.frames, 10); n++)
    most = Math.max(most, plan.samplesBefore(n + 1) - plan.samplesBefore(n))
  const rate = { num: a.sampleRate, den: 1 }
  return {
    key: keyOf(number),
    number,
    definition: definitions.sound,
    wrapping: wrappings.wave,
    kind: 'wave',
    values: {
      locked: value.flag(true),
      soundRate: value.rational(rate),
      channels: value.u32(1),
      quantisation: value.u32(24),
      blockAlign: value.u16(3),
      bytesPerSecond: value.u32(a.sampleRate * 3),
    },
    further: [],
    // a frame has one sample more or less than another at rates that do not divide the sample rate
    most: (most + (plan.frames > 10 ? 1 : 0)) * 3,
  }
}

/** How a picture's colour is described, as far as there are labels for it. */
function colourValues(c: {
  primaries: number
  transfer: number
  matrix: number
}): Partial<Record<Property, Uint8Array>> {
  const of = (labels: Readonly<Record<number, string>>, point: number) =>
    labels[point] === undefined ? null : value.label(labels[point])
  const [primaries, transfer, matrix] = [
    of(colourLabels.primaries, c.primaries),
    of(colourLabels.transfer, c.transfer),
    of(colourLabels.matrix, c.matrix),
  ]
  return { ...(primaries && { primaries }), ...(transfer && { transfer }), ...(matrix && { matrix }) }
}
