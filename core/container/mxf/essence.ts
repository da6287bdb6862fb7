import type { PictureCodec, WrittenPictures } from '../../codec/codec'
import { aes3Bytes, encodeAes3 } from '../../codec/pcm/aes3'
import { encodePcm } from '../../codec/pcm/pcm'
import { pictureCodec } from '../../codec/registry'
import { aspectParts } from '../../media/aspect'
import { bt709 } from '../../media/colour'
import type { LinesKind } from '../../media/media'
import { fail } from '../../problem'
import { makeRate } from '../../time/rate'
import { linesRoom, type AudioEssence, type UnitPlan, type VideoEssence } from '../container'
import { colourLabels, definitions, wrappings } from './labels'
import { value, type MetadataSet } from './sets'
import { systemItem } from './system'
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
  /** Bytes of its element in a frame of so many samples. */
  bytes(samples: number): number
  /** The sound of a frame as its element has it; absent of others. */
  sound?(channels: readonly Float32Array[]): Uint8Array
  /** Which of the lines of a frame are its own, which take up to {@link Essence.bytes}; absent of others. */
  readonly lines?: number
}

/** The essence of a file, and what comes in front of it in every frame. */
export interface FileEssence {
  readonly tracks: readonly Essence[]
  /** The system item of a frame, as long in each. */
  system?(frame: number): Uint8Array
}

/** Full frames, separate fields, fields of both orders, segmented frames (ST 377-1 annex G.2.1). */
const frameLayouts = { progressive: 0, segmented: 4, 'interlaced-tff': 1, 'interlaced-bff': 1, interlaced: 3 } as const

/** Kinds of generic-container elements, frame by frame (ST 379-2, ST 381-3, ST 382, ST 436-1; ST 386). */
const elements = {
  ...{ picture: 0x15010501, sound: 0x16000100, vbi: 0x17000100, ancillary: 0x17000200 },
  ...{ d10Picture: 0x05010100, d10Sound: 0x06011000 },
} as const

const keyOf = (number: number) => `060e2b34010201010d010301${number.toString(16).padStart(8, '0')}`

/** The pictures and sound of a file: each channel a track of its own, of D-10 all in one. */
export function essenceOf(plan: UnitPlan): FileEssence {
  const { sound, video: v } = plan
  const codec = pictureCodec(v.codec)
  const shape = { width: v.width, height: v.height, rate: plan.rate, scan: v.scan }
  const written =
    codec?.calls.mxf?.written?.(shape, plan.pictureBytes) ??
    fail(
      'mxf.no-entry',
      `Pictures of kind “${codec?.label ?? v.codec}” cannot be written into MXF here.`,
      undefined,
      'Choose another recipe.',
    )
  const picture = pictureTrack(plan, v, codec!.encode!, written)
  if (!written.d10) {
    const channels = sound?.channels ?? 0
    const heard = Array.from({ length: channels }, (_, i) => soundTrack(sound!, i, channels))
    return { tracks: [picture, ...heard, ...(plan.data ?? []).map(linesTrack)] }
  }
  const system = (frame: number) => systemItem(plan, written.wrapping, frame)
  return { tracks: [picture, ...(sound ? [eightChannels(sound, written)] : [])], system }
}

function pictureTrack(
  plan: UnitPlan,
  v: VideoEssence,
  encode: NonNullable<PictureCodec['encode']>,
  written: WrittenPictures,
): Essence {
  const interlaced = v.scan !== 'progressive'
  const colour = v.colour ?? bt709
  const shown = interlaced ? v.height / 2 : v.height
  const stored = interlaced ? written.lines / 2 : written.lines
  const [wide, high] = aspectParts(v.pixelAspect)
  const number = written.d10 ? elements.d10Picture : elements.picture
  const levels = 1 << (encode.bitDepth - 8)
  return {
    key: keyOf(number),
    number,
    definition: definitions.picture,
    wrapping: written.wrapping,
    kind: 'mpeg',
    values: {
      frameLayout: value.u8(frameLayouts[v.scan]),
      storedWidth: value.u32(Math.ceil(v.width / 16) * 16),
      storedHeight: value.u32(stored),
      sampledWidth: value.u32(v.width),
      // the lines of the blanking in a picture of D-10 are sampled, and not shown
      sampledHeight: value.u32(written.d10 ? stored : shown),
      displayWidth: value.u32(v.width),
      displayHeight: value.u32(shown),
      displayX: value.u32(0),
      displayY: value.u32(written.d10 ? stored - shown : 0),
      aspectRatio: value.rational(makeRate(v.width * wide, v.height * high)),
      lineMap: value.list((written.d10 ? d10Lines : lineMap(v)).map(value.u32), 4),
      ...(interlaced ? { fieldDominance: value.u8(v.scan === 'interlaced-bff' ? 2 : 1) } : {}),
      pictureCoding: value.label(written.coding),
      componentDepth: value.u32(encode.bitDepth),
      horizontalSubsampling: value.u32(2),
      verticalSubsampling: value.u32(encode.as({ ...v, rate: plan.rate }).chroma === '4:2:0' ? 2 : 1),
      colourSiting: value.u8(0),
      blackLevel: value.u32(16 * levels),
      whiteLevel: value.u32(235 * levels),
      colourRange: value.u32(224 * levels + 1),
      ...colourValues(colour),
    },
    further: written.further,
    bytes: () => plan.pictureBytes,
  }
}

/** The first line of each field that a picture of D-10 has (SMPTE ST 386 table 4, of 625 lines). */
const d10Lines = [7, 320]

/** The first active line of each field (ST 274, ST 296); lines of other heights are counted from one. */
function lineMap({ height, scan }: VideoEssence): number[] {
  if (height === 1080) return scan === 'progressive' ? [42, 0] : [21, 584]
  if (height === 720) return [26, 0]
  return scan === 'progressive' ? [1, 0] : [1, height / 2 + 1]
}

function soundValues({ sampleRate }: AudioEssence, channels: number): Essence['values'] {
  return {
    locked: value.flag(true),
    soundRate: value.rational({ num: sampleRate, den: 1 }),
    channels: value.u32(channels),
    quantisation: value.u32(24),
    blockAlign: value.u16(3 * channels),
    bytesPerSecond: value.u32(sampleRate * 3 * channels),
  }
}

function soundTrack(a: AudioEssence, i: number, channels: number): Essence {
  const number = elements.sound + (channels << 16) + i + 1
  return {
    key: keyOf(number),
    number,
    definition: definitions.sound,
    wrapping: wrappings.wave,
    kind: 'wave',
    values: soundValues(a, 1),
    further: [],
    bytes: (samples) => samples * 3,
    sound: (all) => encodePcm([all[i]!], 24, true),
  }
}

function linesTrack(kind: LinesKind, i: number, all: readonly LinesKind[]): Essence {
  const alike = all.filter((k) => k === kind).length
  const number = elements[kind] + (alike << 16) + all.slice(0, i).filter((k) => k === kind).length + 1
  return {
    key: keyOf(number),
    number,
    definition: definitions.data,
    wrapping: wrappings[kind],
    kind,
    values: {},
    further: [],
    bytes: () => linesRoom[kind],
    lines: i,
  }
}

/** The sound of D-10: a single element of eight channels, as many of them in use as there are. */
function eightChannels(a: AudioEssence, { wrapping }: WrittenPictures): Essence {
  return {
    key: keyOf(elements.d10Sound),
    number: elements.d10Sound,
    definition: definitions.sound,
    wrapping,
    kind: 'sound',
    values: soundValues(a, a.channels),
    further: [],
    bytes: aes3Bytes,
    sound: encodeAes3,
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
