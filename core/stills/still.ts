import type { Colour } from '../media/media'
import type { RgbSignal } from '../picture/rgb'
import type { Frames, Rate } from '../time/rate'

/** What a still says of itself besides its picture. */
export interface StillHead {
  readonly width: number
  readonly height: number
  readonly bitDepth: number
  /** Null where it says none. */
  readonly rate: Rate | null
  /** Hours, minutes, seconds, frames; null where it says none. */
  readonly timecode: readonly [number, number, number, number] | null
  /** Set where its timecode is midnight, and may as well have been left out by who wrote it. */
  readonly unsure?: true
  /** The recording that its timecode is of; empty where it says none. */
  readonly reel: string
  /** Whether its timecode says that labels are dropped. */
  readonly dropFrame: boolean
  /** Null where it says none. */
  readonly colour: Colour | null
  /** As `16:11`; null where it says none. */
  readonly pixelAspect: string | null
  /** Whether its lines are those of two fields; null where it says nothing. */
  readonly interlaced: boolean | null
  /** Whether it has an alpha channel, which is not read. */
  readonly alpha: boolean
  /** What of it is not read, or not as it is meant, in whole sentences. */
  readonly notes: readonly string[]
}

/** A still as it is read. */
export interface Still {
  readonly head: StillHead
  readonly picture: RgbSignal
}

/** Which one of a run a still is. */
export interface StillPlace {
  /** The name of its file. */
  readonly name: string
  readonly rate: Rate
  /** Its label, `10:00:00:00`, with `;` before the frames when labels are dropped. */
  readonly timecode: string
  /** The recording that its label is of; empty where it is of none. */
  readonly reel: string
  /** Which picture of how many it is, from 0. */
  readonly position: Frames
  readonly length: Frames
}

/** What a still that is written says beside its picture. */
export interface StillTold extends StillPlace {
  readonly show: string
  /** `2026-03-01`; empty when no day is known. */
  readonly date: string
  readonly colour: Colour
  /** As `1:1`. */
  readonly pixelAspect: string
  /** Whether its lines are those of two fields. */
  readonly interlaced: boolean
}

/** Full-range samples of R′, G′, B′, one after the other; 8 bits in bytes, 16 in words. */
export interface RgbSamples {
  readonly width: number
  readonly height: number
  readonly samples: Uint8Array | Uint16Array
}

/** A still of a common format: its values as they stand in the file. */
export interface DecodedStill extends RgbSamples {
  readonly bitDepth: number
  readonly alpha: boolean
  /** What of it is not gone by, in whole sentences. */
  readonly notes: readonly string[]
}

/** The zlib format (RFC 1950). */
export interface Zlib {
  deflate(bytes: Uint8Array): Promise<Uint8Array>
  /** Inflates to no more than `most` bytes; null where the bytes are damaged or hold more. */
  inflate(bytes: Uint8Array, most: number): Promise<Uint8Array | null>
}

/** The libraries for still images that a machine has: common formats are their affair, and zlib streams (RFC 1950). */
export interface StillLibrary extends Zlib {
  decode(bytes: Uint8Array): Promise<DecodedStill>
  encode(kind: 'png' | 'tiff' | 'jpeg', picture: RgbSamples): Promise<Uint8Array>
}

/** One way a format is written. */
export interface StillWriting {
  /** `dpx-10`: what recipes call it. */
  readonly name: string
  readonly label: string
  readonly bitDepth: number
  /** What a file states of a colour; null where it cannot state it. */
  states(colour: Colour): Colour | null
  /** Bytes of a file, at most. */
  bytes(width: number, height: number): number
  /** How many that may be off; absent where files are as long as their pictures make them. */
  readonly bytesOff?: number
  /** Present where levels beyond black and white stay what they are; they are cut off where it is absent. */
  readonly keepsBeyond?: true
  write(picture: RgbSignal, told: StillTold, library: StillLibrary): Promise<Uint8Array>
}

/** What a still may say of itself: `dropped`, that labels are; `shape`, of its pixels; `fields`, that it has any. */
export type StillTrait = 'rate' | 'timecode' | 'dropped' | 'shape' | 'fields'

/** A format of still images that a run of numbered files can be made of. */
export interface StillFormat {
  /** What its pictures are said to be: `png`, `dpx`. */
  readonly codec: string
  readonly label: string
  readonly extensions: readonly string[]
  /** What besides its picture a file has a place for, at a rate of pictures. */
  tells(rate: Rate): readonly StillTrait[]
  /** Reads a whole file; throws a problem when it is damaged. */
  read(bytes: Uint8Array, name: string, library: StillLibrary): Promise<Still>
  /**
   * A whole file as it is for another place, every sample and all else it says as it stands; absent where a format has
   * nothing to say of places.
   */
  moved?(bytes: Uint8Array, place: StillPlace): Uint8Array
  readonly writes: readonly StillWriting[]
}

/** R′, G′, B′ as full-range samples of a depth: what lies beyond black and white is cut off there. */
export function quantised({ rgb }: RgbSignal, bitDepth: number): Uint8Array | Uint16Array {
  const most = 2 ** bitDepth - 1
  const out = bitDepth === 8 ? new Uint8Array(rgb.length) : new Uint16Array(rgb.length)
  for (let i = 0; i < rgb.length; i++) {
    const v = rgb[i]! * most + 0.5
    out[i] = v < 0 ? 0 : v > most ? most : v
  }
  return out
}

/** Full-range samples of a depth as R′, G′, B′. */
export function signalOf({ width, height, samples }: RgbSamples, bitDepth: number): RgbSignal {
  const rgb = new Float32Array(width * height * 3)
  const most = 2 ** bitDepth - 1
  for (let i = 0; i < rgb.length; i++) rgb[i] = samples[i]! / most
  return { width, height, rgb }
}

/** A colour that a file states by its primaries alone, out of those it knows. */
export function statedBy(known: readonly { readonly colour: Colour }[]): (colour: Colour) => Colour | null {
  return ({ primaries }) => known.find((k) => k.colour.primaries === primaries)?.colour ?? null
}
