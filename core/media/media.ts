import type { ByteSource } from '../bytes'
import type { Problem } from '../problem'
import type { Packet } from './packet'
import type { Presentation } from './presentation'
import type { FrameTimecode } from './timecodes'
import { rateLabel, type Frames, type Rate, type Samples, type Seconds } from '../time/rate'
import type { TimeBase } from '../time/timecode'

/**
 * `segmented` is progressive carried as two fields, the upper first (PsF); `interlaced` has an order that nothing
 * tells.
 */
export type Scan = 'progressive' | 'segmented' | 'interlaced-tff' | 'interlaced-bff' | 'interlaced'
export type Chroma = '4:0:0' | '4:2:0' | '4:2:2' | '4:4:4'

/** Colour description by ITU-T H.273 code points; 2 means unspecified. */
export interface Colour {
  readonly primaries: number
  readonly transfer: number
  readonly matrix: number
  readonly fullRange: boolean
}

/** What a file's container and the coded pictures in it both state, and not alike; each in words. */
export interface Contradiction {
  readonly trait: 'raster' | 'order' | 'chroma' | 'depth' | 'aspect' | 'colour'
  readonly container: string
  readonly pictures: string
}

export interface VideoInfo {
  /** `h264`, `hevc`, `vp8`, `vp9`, `av1`, `v210`, `uyvy`, or the container's own four characters. */
  readonly codec: string
  /** Of a timeline of several sources: every codec its pictures are in. */
  readonly codecs?: readonly string[]
  readonly profile: string | null
  readonly level: string | null
  readonly width: number
  readonly height: number
  readonly rate: Rate
  /** False when the media does not say a rate: it then runs at the timeline's. */
  readonly rateStated?: boolean
  /** The rate that its own times come to, where that is near `rate`, which is standard, and not the same. */
  readonly ownRate?: Rate
  /** False when sample durations differ. */
  readonly constantRate: boolean
  readonly scan: Scan
  /** What its file says, where a person said otherwise; null where it says nothing. */
  readonly labelled?: Scan | null
  readonly chroma: Chroma
  readonly bitDepth: number
  readonly pixelAspect: string
  /** Present where it has an alpha channel, which is not read here. */
  readonly alpha?: true
  /** What players do to its pictures, which are worked with as they are coded; absent where they do nothing. */
  readonly presentation?: Presentation
  readonly colour: Colour | null
  /** What its headers state of the transfer, where messages in the pictures prefer that of `colour`. */
  readonly statedTransfer?: number
  /** What neither container nor pictures state: what is said of it here is what is usual. */
  readonly untold?: readonly ('scan' | 'chroma' | 'bitDepth')[]
  /** Absent where the pictures themselves are not looked into. */
  readonly contradictions?: readonly Contradiction[]
  readonly frames: Frames
  /** Every sample stands alone. */
  readonly intra: boolean
  /** What a W3C WebCodecs decoder is told; null for our own codecs. */
  readonly webCodec: string | null
  /** Of several sources: whether decoding gives less of any than there is; of one it follows from the rest. */
  readonly reduced?: boolean
}

/** Whether pictures have more than the decoders of W3C WebCodecs give of them here: 8 bits, 4:2:0. */
export const isReduced = (v: Pick<VideoInfo, 'reduced' | 'webCodec' | 'bitDepth' | 'chroma'>): boolean =>
  v.reduced ?? (v.webCodec !== null && (v.bitDepth > 8 || v.chroma !== '4:2:0'))

export interface AudioInfo {
  /** `pcm`, `aac`, `opus`, `flac`, or the container's own four characters. */
  readonly codec: string
  /** Those that the sound of several sources is in, where it is not all PCM. */
  readonly codecs?: readonly string[]
  readonly channels: number
  readonly sampleRate: number
  readonly bitDepth: number
  /** Samples per channel, after the edit list. */
  readonly samples: Samples
  /** `L R C LFE Ls Rs` when the file says so. */
  readonly layout: string | null
  readonly webCodec: string | null
  /** What the file does not say of it, where it is taken for what is usual. */
  readonly untold?: readonly ('sampleRate' | 'bitDepth')[]
  /** Its track is switched off: players leave it out. */
  readonly off?: true
  /** Silence at its beginning, where it begins later than the pictures; part of `samples`. */
  readonly lead?: Samples
}

/** Lines of the blanking, frame by frame: ancillary packets, or what older services put there (SMPTE ST 436-1). */
export type LinesKind = 'ancillary' | 'vbi'

/** What a file carries that is neither pictures nor sound: a track, as a rule. */
export interface DataInfo {
  /** `pictures`: it goes with the coded pictures. `metadata` describes the recording, and is shown to nobody. */
  readonly kind: LinesKind | 'text' | 'pictures' | 'metadata' | 'other'
  /** Its format in words. */
  readonly label: string
  /** Names of what its ancillary packets carry, as far as some of its frames tell. */
  readonly carries: readonly string[]
}

export interface StartTimecode {
  /** Label, e.g. `10:00:00:00`. */
  readonly start: string
  readonly startFrames: Frames
  readonly rate: Rate
  readonly dropFrame: boolean
  /** Set where its format cannot say whether labels are dropped, and it follows either way. */
  readonly dropUntold?: true
  /** Set where no timecode is said: it counts by the numbers of stills. */
  readonly numbered?: true
  /** The name of the recording that it counts, where it says one. */
  readonly reel?: string
  /** Where the timecode does not follow from the frame before, in order; absent where it was not looked for. */
  readonly jumps?: readonly TimecodeJump[]
}

/** A frame of a file at which its timecode jumps, and what it counts there. */
export interface TimecodeJump {
  readonly at: Frames
  readonly count: Frames
}

/**
 * How an MXF file is built (SMPTE ST 377-1): its operational pattern, `OP1a`, and how its essence is wrapped; what
 * earlier editions did not look at is absent.
 */
export interface FileStructure {
  readonly pattern: string
  readonly wrapping: 'frame' | 'clip'
  /** What its header partition says of itself. */
  readonly header?: `${'open' | 'closed'}-${'complete' | 'incomplete'}`
  /** Of how many of its frames an index says where they stand. */
  readonly index?: 'whole' | 'part' | 'none'
  /** Whether it ends with a list of its partitions. */
  readonly randomIndex?: boolean
  /** How many partitions its essence is in, and the frames of the longest; one of all where it is forecast without. */
  readonly bodies?: { readonly count: number; readonly longest: Frames; readonly rate: Rate }
}

/** How MXF files are written here. */
export const writtenStructure: FileStructure = {
  ...{ pattern: 'OP1a', wrapping: 'frame' },
  ...{ header: 'closed-complete', index: 'whole', randomIndex: true },
}

/** Counts what is looked for in media: what an earlier edition described is described anew, its lists linked anew. */
export const describedEdition = 13

/** What a file is, read from its headers and index only. */
export interface MediaInfo {
  /** Of what is looked for, where the description is kept; absent of the first. */
  readonly edition?: number
  /** The brand of its container, e.g. `mov`; `stills` for a run of pictures. */
  readonly container: string
  readonly indexAt: 'front' | 'end' | 'fragments'
  readonly size: number
  /** In frames of the first picture track; null for sound alone. */
  readonly durationFrames: Frames | null
  readonly durationSeconds: Seconds
  readonly timecode: StartTimecode | null
  readonly video: readonly VideoInfo[]
  readonly audio: readonly AudioInfo[]
  /** Tracks besides; absent in descriptions of earlier editions, which did not look for any. */
  readonly data?: readonly DataInfo[]
  /** Chapters and markers that the file itself carries, in order. */
  readonly chapters: readonly MediaChapter[]
  /** `bext` fields of a broadcast wave file. */
  readonly bext: BextInfo | null
  /** Of MXF files alone. */
  readonly structure?: FileStructure
  /** What is odd about the file but did not keep it from being read. */
  readonly problems: readonly Problem[]
  /** Programme metadata by field, where the file carries any that is read here. */
  readonly metadata?: Readonly<Record<string, string>>
}

/** A named place of a file, in ticks of `timescale` from its first frame or sample. */
export interface MediaChapter {
  readonly at: number
  readonly timescale: number
  readonly name: string
}

export interface BextInfo {
  readonly description: string
  readonly originator: string
  readonly originatorReference: string
  /** `yyyy-mm-dd` and `hh:mm:ss`. */
  readonly date: string
  readonly time: string
  /** Samples since midnight of the first sample. */
  readonly timeReference: Samples
  readonly version: number
  /** LUFS, or null when not given (EBU Tech 3285 version 2). */
  readonly loudness: number | null
}

/** One sample (access unit) of a track. Times in the track's media timescale. */
export interface SampleRef {
  readonly offset: number
  readonly size: number
  readonly dts: number
  readonly pts: number
  readonly sync: boolean
}

/**
 * How a track's own container describes its essence, for copying it into another file of that container. What is in it
 * is the container's affair alone; null where the container has no such thing.
 */
export interface NativeDescription {
  readonly container: string
  readonly bytes: Uint8Array
}

/** Whether two tracks are described alike, so that their samples can stand in one track. */
export function sameNative(a: NativeDescription | null, b: NativeDescription | null): boolean {
  if (a === null || b === null || a.container !== b.container || a.bytes.length !== b.bytes.length) return false
  return a.bytes.every((v, i) => v === b.bytes[i])
}

/** A picture track: frames in display order mapped to samples in decode order. */
export interface VideoTrack {
  readonly info: VideoInfo
  readonly timescale: number
  readonly sampleCount: number
  /** The sample at a decode position. */
  sample(index: number): SampleRef
  /** Decode position of the sample shown as frame `n`, n in [0, info.frames). */
  sampleOfFrame(n: Frames): number
  /** Decode position of the nearest sync sample at or before a decode position. */
  syncBefore(index: number): number
  /** What the codec keeps for its decoder, in the codec's own form. */
  readonly configuration: Uint8Array | null
  readonly native: NativeDescription | null
}

/** A sound track in packets (coded) or plain samples (PCM). */
export interface AudioTrack {
  readonly info: AudioInfo
  /** Media position, in samples, of the first sample presented (priming skipped by the edit list). */
  readonly start: Samples
  /** Present for PCM: layout of one interleaved frame. */
  readonly pcm: PcmLayout | null
  /** Coded packets; zero for PCM. */
  readonly packetCount: number
  packet(index: number): { offset: number; size: number; pts: Samples; duration: Samples }
  /** For PCM: the contiguous run of bytes that holds media sample `at`, and how many samples it holds from there. */
  run(at: Samples): { offset: number; samples: Samples }
  readonly configuration: Uint8Array | null
  readonly native: NativeDescription | null
}

export interface PcmLayout {
  readonly bytesPerSample: number
  /** `aes3`: words of four bytes with 24 bits of sound in their midst (SMPTE ST 331 8). */
  readonly kind: 'int' | 'float' | 'uint' | 'aes3'
  readonly littleEndian: boolean
  /** Channels that lie side by side: those of the track, and of `aes3` always eight. */
  readonly channels: number
}

/** A track of lines of the blanking, an element for each frame. */
export interface DataTrack {
  readonly info: DataInfo
  readonly frames: Frames
  /** The element of a frame as it stands in the file. Throws a problem where it is damaged. */
  read(frame: Frames): Promise<Uint8Array>
  /** The ancillary packets of an element, those that are understood. */
  packets(element: Uint8Array): Packet[]
  /** An element as it stands, but for the packets that are dropped. */
  without(element: Uint8Array, drop: (p: Packet) => boolean): Uint8Array
}

/** A file opened for reading: what it is, and where its samples are. */
export interface Media {
  readonly source: ByteSource
  readonly info: MediaInfo
  readonly video: readonly VideoTrack[]
  readonly audio: readonly AudioTrack[]
  /** Those tracks besides that can be read frame by frame. */
  readonly data?: readonly DataTrack[]
  /** Timecodes that it repeats with its frames, besides those in ancillary packets. */
  readonly timecodes?: readonly FrameTimecode[]
}

/** The time base a file's own timecode counts in, or one from its rate. */
export function mediaTimeBase(info: MediaInfo): TimeBase | null {
  if (info.timecode) return { rate: info.timecode.rate, dropFrame: info.timecode.dropFrame }
  const v = info.video[0]
  return v ? { rate: v.rate, dropFrame: false } : null
}

/** What is said of a file whose frames do not all last equally long. */
export function variableRate(rate: Rate, where: string): Problem {
  return {
    code: 'media.variable-rate',
    message:
      `Frame durations vary in this file; at ${rateLabel(rate)} frames a second each frame shows the picture that is ` +
      'due at its time.',
    where,
    fix: 'Ask for a copy at a constant rate where every picture of it matters.',
  }
}
