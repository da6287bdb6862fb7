import type { Media, AudioTrack, Chroma, Colour, Scan, VideoTrack } from '../media/media'
import type { Picture } from '../picture/picture'
import type { Problem } from '../problem'
import type { FrameRange } from '../time/range'
import type { Frames, Rate, Samples } from '../time/rate'
import type { NalUnits } from './nal'
import type { WebCodecs } from './web/webcodecs'

/** Pictures of a range of a timeline, frame by frame, wherever they come from. */
export interface PictureSource {
  readonly frames: Frames
  /** Every frame of the range, in order. */
  read(range: FrameRange): AsyncGenerator<{ frame: Frames; picture: Picture }>
  /** The first frame behind one whose picture does not lean on what that one leans on; the next one when absent. */
  after?(frame: Frames): Frames
}

/** Sound of a range of a timeline: all source channels, track after track. */
export interface SoundSource {
  readonly channels: number
  readonly sampleRate: number
  readonly samples: Samples
  /** What its channels are taken to be, in order; by their number when absent. */
  readonly layout?: string | null
  /** Why some of its channels cannot be read; absent where all can. */
  readonly closed?: ReadonlyMap<number, Problem>
  /**
   * Samples [from, from + count) of every channel; silence before the start and past the end. Of the channels `wanted`
   * alone where these are named: the others are silence that nobody read. Throws the problem of one that is closed.
   */
  read(from: Samples, count: Samples, wanted?: readonly number[]): Promise<Float32Array[]>
}

/** Samples [from, from + count) of a track's channels, all of them. */
export type TrackReader = (from: Samples, count: Samples) => Promise<Float32Array[]>

/** What a picture codec's own configuration says of the pictures; what it does not say is absent. */
export interface PictureDescription {
  /** The codec of ours that the stream turns out to be of, where the container calls several by one name. */
  readonly codec?: string
  readonly profile?: string | null
  readonly level?: string | null
  readonly width?: number
  readonly height?: number
  readonly scan?: Scan
  readonly chroma?: Chroma
  readonly bitDepth?: number
  /** Present where it has an alpha channel, which is not decoded here. */
  readonly alpha?: true
  readonly pixelAspect?: string | null
  readonly colour?: Colour | null
  /** Frames a second that the stream states. */
  readonly timing?: Rate | null
  /** What a W3C WebCodecs decoder is told; absent for our own codecs. */
  readonly webCodec?: string | null
}

/** What a sound codec's own configuration says of the sound. */
export interface SoundDescription {
  readonly channels?: number
  readonly sampleRate?: number
  readonly bitDepth?: number
  readonly webCodec?: string | null
  /** Samples of every packet, where all are the same. */
  readonly packetSamples?: Samples
}

/** One access unit (picture) or packet (sound) as an encoder gives it, in decode order. */
export interface EncodedUnit {
  readonly bytes: Uint8Array
  /** Decoding can begin here. */
  readonly sync: boolean
}

/** What all encoders share: they are fed, what is ready is taken, the rest comes with a flush. */
export interface Encoder<Input> {
  /** Takes the next picture or block of sound; waits while too much is under way. */
  feed(input: Input): Promise<void>
  /** What has become ready since the last call, in decode order. */
  take(): EncodedUnit[]
  flush(): Promise<void>
  /** What a container keeps for the decoder, once the first unit is there; null when there is none. */
  configuration(): Uint8Array | null
  close(): void
}

export interface PictureEncoderSettings {
  readonly width: number
  readonly height: number
  readonly rate: Rate
  /** Progressive when absent. */
  readonly scan?: Scan
  /** What the stream states of its colour, where the codec can; BT.709 when absent. */
  readonly colour?: Colour
  /** Which frame of its file comes first, for codecs that tell one picture from the next; 0 when absent. */
  readonly first?: Frames
  /** The label of the file's first frame, where the stream carries labels; frame 0 when absent. */
  readonly start?: { readonly frames: Frames; readonly dropFrame: boolean }
  /** Square when absent. */
  readonly pixelAspect?: string
  /** Bits a second; codecs whose size follows from the shape alone have no use for it. */
  readonly bitrate: number
  /** Whether a worse picture at the same rate is a fair price for speed. */
  readonly hurry?: boolean
}

export interface SoundEncoderSettings {
  readonly channels: number
  readonly sampleRate: number
  readonly bitrate: number
}

/** The size, rate and scan of pictures. */
export interface PictureShape {
  readonly width: number
  readonly height: number
  readonly rate: Rate
  readonly scan: Scan
}

/** How pictures stand in an MXF file, and are described there (SMPTE ST 377-1 annex G). */
export interface WrittenPictures {
  readonly wrapping: string
  readonly coding: string
  /** Lines that are coded, of a frame. */
  readonly lines: number
  readonly further: readonly { readonly kind: 'avc'; readonly values: Readonly<Record<string, Uint8Array>> }[]
  /** Whether pictures and sound are packed as D-10 (SMPTE ST 386). */
  readonly d10: boolean
}

/** How a codec is called in each container, by the container's name. */
export interface Calls {
  /**
   * Sample entry codes of MP4 and MOV, the one to write first, `mp4v.61` for an object type (RFC 6381), and the box
   * that holds the configuration.
   */
  readonly mp4?: {
    readonly entries: readonly string[]
    readonly box?: string
    /** Whether only the stream itself says what its pictures are. */
    readonly inStream?: true
    /** A box that only tells what the pictures are: decoders have no use for it. */
    readonly tells?: string
    /** The profile that each code stands for, where the stream does not say one. */
    readonly profiles?: Readonly<Record<string, string>>
    /** Brands it may stand in; all when absent. */
    readonly brands?: readonly string[]
  }
  /** How MXF tells it: the label of its wrapping, of its coding, and further descriptors (SMPTE ST 377-1 annex G). */
  readonly mxf?: {
    readonly entries: readonly string[]
    /** What is written of pictures that are all of one size; absent where none are. */
    written?(shape: PictureShape, pictureBytes: number): WrittenPictures
  }
  /** Codec ids of Matroska (RFC 9559 and its codec registry). */
  readonly matroska?: { readonly entries: readonly string[] }
}

/** What every codec says of itself. */
interface Codec {
  /** `h264`, `pcm`: what files are said to hold, and what specifications ask for. */
  readonly name: string
  /** `H.264`: what people call it. */
  readonly label: string
  readonly calls: Calls
}

/** A picture codec: what it is called, what its configuration says, and how it is read and written where it can be. */
export interface PictureCodec extends Codec {
  /** From the configuration a container keeps, or else the first access unit of the stream. */
  describe(configuration: Uint8Array | null, first: Uint8Array | null): PictureDescription
  /** How its NAL units are told apart, where it has such. */
  readonly nal?: NalUnits
  /** What is wrong with an access unit as a file holds it, by its structure alone; null when nothing is. */
  readonly unitFault?: (unit: Uint8Array, sync: boolean, configuration: Uint8Array) => string | null
  /** Whether an access unit is coded by itself, by what it says; null where it says nothing. */
  readonly isAlone?: (unit: Uint8Array, configuration: Uint8Array | null) => boolean | null
  /**
   * The timecode at the beginning of a group of pictures, of what is shown so many pictures before the one that the
   * access unit holds; null where there is none.
   */
  readonly groupTimecode?: (unit: Uint8Array) => { readonly label: string; readonly before: Frames } | null
  /** Whether it can be decoded and encoded here; `null` codecs stand for a machine without WebCodecs. */
  readonly decode: { needsWeb: boolean; open(media: Media, track: VideoTrack, web: WebCodecs | null): PictureSource }
  readonly encode?: {
    readonly needsWeb: boolean
    readonly bitDepth: number
    /**
     * What pictures of a shape are coded as: profile and level where the codec has such things. `bitrate` is in bits a
     * second, where it is chosen.
     */
    as(shape: PictureShape & { readonly bitrate?: number }): {
      readonly chroma: Chroma
      readonly profile: string | null
      readonly level: string | null
    }
    /** Bytes of every picture, where all are the same: segments then write in place. */
    readonly frameBytes?: (shape: PictureShape, bitrate: number) => number
    /** What a W3C WebCodecs encoder is asked whether it can do. */
    readonly probe?: VideoEncoderConfig
    /**
     * Frames of 1920×1080 a second that a worker makes, and proves, where that is slower than such steps are as a rule;
     * until this machine has shown its own.
     */
    readonly speed?: { readonly make: number; readonly prove: number }
    open(settings: PictureEncoderSettings, web: WebCodecs | null): Encoder<Picture>
  }
}

/** A sound codec, as {@link PictureCodec}. */
export interface SoundCodec extends Codec {
  describe(configuration: Uint8Array | null): SoundDescription
  /** Whether samples come out as they went in, so that they have a depth; others have none. */
  readonly keepsDepth?: true
  /** Samples of a packet by its first bytes, where they tell. */
  readonly packetLength?: { readonly bytes: number; of(head: Uint8Array): Samples | null }
  readonly decode: { needsWeb: boolean; open(media: Media, track: AudioTrack, web: WebCodecs | null): TrackReader }
  readonly encode?: {
    readonly needsWeb: boolean
    readonly probe?: AudioEncoderConfig
    /** Samples put before the first one given, which an edit list skips. */
    readonly priming: Samples
    readonly packetSamples: Samples
    open(settings: SoundEncoderSettings, web: WebCodecs | null): Encoder<Float32Array[]>
  }
}
