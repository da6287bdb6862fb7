import type { ByteSource } from '../bytes'
import type { Colour, LinesKind, Media, NativeDescription, Scan } from '../media/media'
import type { Frames, Rate, Samples } from '../time/rate'
import type { Structure } from './structure'

/** A picture track as it will be described in a file. */
export interface VideoEssence {
  readonly kind: 'video'
  readonly codec: string
  readonly width: number
  readonly height: number
  readonly pixelAspect: string
  /** BT.709 narrow range when nothing is said. */
  readonly colour: Colour | null
  readonly scan: Scan
  readonly configuration: Uint8Array | null
}

/** A sound track as it will be described in a file. */
export interface AudioEssence {
  readonly kind: 'audio'
  readonly codec: string
  readonly channels: number
  readonly sampleRate: number
  readonly layout: string | null
  readonly configuration: Uint8Array | null
  /** Bits a second, where the codec has one. */
  readonly bitrate: number
}

/** A track copied from a file of the same container: described as it was there. */
export interface CopiedEssence {
  readonly kind: 'video' | 'audio'
  readonly native: NativeDescription
  readonly width?: number
  readonly height?: number
  readonly pixelAspect?: string
}

/** One track as it will stand in a file. Times in the track's timescale. */
export interface TrackPlan {
  readonly essence: VideoEssence | AudioEssence | CopiedEssence
  readonly timescale: number
  /** Bytes of each sample, or one size for all `count` of them. */
  readonly sizes: Uint32Array | { readonly constant: number; readonly count: number }
  /** Duration of each sample, or one for all. */
  readonly durations: Uint32Array | { readonly constant: number }
  /** Composition offsets; absent when decode order is display order. */
  readonly cts?: Int32Array
  /** 1 for sync samples; absent when all are. */
  readonly sync?: Uint8Array
  /** Chunks: where each begins, counted from the first byte of media data, and how many samples it holds. */
  readonly chunks: readonly { readonly offset: number; readonly samples: Samples }[]
  /** What of the track is presented; absent for all of it. */
  readonly edit?: { readonly mediaTime: number; readonly duration: number }
}

/** A whole file as it will be: its tracks, its start, its chapters. */
export interface FilePlan {
  readonly tracks: readonly TrackPlan[]
  readonly frames: Frames
  readonly rate: Rate
  readonly start: { readonly frames: Frames; readonly dropFrame: boolean }
  readonly chapters: readonly { readonly at: Frames; readonly name: string }[]
  /** The recording that its timecode counts; none when absent. */
  readonly reel?: string
  /** Programme metadata by field, for containers that carry it; none when absent. */
  readonly metadata?: Readonly<Record<string, string>>
  /** Bytes of media data of all tracks. */
  readonly dataSize: number
}

/** Where everything stands: media data begins where the head ends, the tail follows it. */
export interface Layout {
  readonly head: Uint8Array
  readonly tail: Uint8Array
}

/** A file of pictures that are all of one size, and of PCM of 24 bits: all of it is known before a picture is made. */
export interface UnitPlan {
  readonly video: VideoEssence
  /** Bytes of every picture. */
  readonly pictureBytes: number
  readonly sound: AudioEssence | null
  /** Lines of the blanking, track by track; none when absent. */
  readonly data?: readonly LinesKind[]
  /** Samples of each channel before a frame, counted from the file's first. */
  samplesBefore(frame: Frames): Samples
  readonly frames: Frames
  readonly rate: Rate
  readonly start: { readonly frames: Frames; readonly dropFrame: boolean }
  readonly chapters: FilePlan['chapters']
  readonly metadata?: FilePlan['metadata']
  /** Frames of each partition of essence, for containers that have such; all are in one when absent. */
  readonly partitionFrames?: Frames
  /** What the programme is called. */
  readonly name: string
  /** Sixteen bytes that are this file's alone, and the same each time it is made. */
  readonly identity: Uint8Array
}

/** Bytes that the lines of a frame take at most: some twenty packets; forty lines of luma of older standards. */
export const linesRoom: Readonly<Record<LinesKind, number>> = { ancillary: 6 << 10, vbi: 60 << 10 }

/** Lines of the blanking of a frame, as the container has them; null where a frame has none. */
export type Lines = Uint8Array | null

/** Bytes, and where in a file they stand. */
export interface Piece {
  readonly at: number
  readonly bytes: Uint8Array
}

/** Where everything of a file of {@link UnitPlan} stands: frames can be written in any order. */
export interface Units {
  readonly head: Uint8Array
  readonly tail: Piece
  /**
   * A frame with its sound, channel by channel, and its lines of the blanking, track by track (none of a frame that has
   * none); the bytes may be written over by the next frame but one. Throws a problem where lines do not find room.
   */
  unit(frame: Frames, picture: Uint8Array, sound: readonly Float32Array[], lines?: readonly Lines[]): Piece[]
}

/** One name a container goes by: its files' ending and what they are to a browser. */
export interface Brand {
  readonly name: string
  readonly label: string
  /** With the dot; the first is what is written. */
  readonly extensions: readonly string[]
  readonly mime: string
  /** Whether files of this kind hold pictures, as a rule. */
  readonly pictures: boolean
}

/** A file format of pictures and sound. */
export interface Container {
  readonly name: string
  /** The kinds of file it comes as, e.g. MOV and MP4. */
  readonly brands: readonly Brand[]
  /** Whether a file begins as this container does; `head` is its first 16 bytes. */
  recognise(head: Uint8Array): boolean
  /** Opens a file, reading its index only; throws a problem when it is damaged. */
  open(source: ByteSource): Promise<Media>
  /**
   * What is wrong with the structure of a whole file, where opening it looks at some of it only; null when nothing is.
   */
  structureFault?(source: ByteSource): Promise<string | null>
  /** How its files are taken apart, to be looked at. */
  readonly structure?: Structure
  /** Whether its files carry programme metadata. */
  readonly metadata?: true
  /** Whether its files say the label of their first frame. */
  readonly start?: true
  /** Lays a file of a brand out, index in front; absent where the container is only read. */
  layout?(brand: string, plan: FilePlan): Layout
  /** Lays a file out whose pictures are all of one size; absent where it cannot hold such. */
  units?(brand: string, plan: UnitPlan): Units
}
