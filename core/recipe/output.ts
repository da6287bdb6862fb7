import { linesRoom } from '../container/container'
import type { PictureShape } from '../codec/codec'
import { pictureCodec, soundCodec } from '../codec/registry'
import { closedIn } from '../codec/sound'
import { bt709, colourOf, colourText, convertible, hasRgb, systems, type ColouredPictures } from '../media/colour'
import {
  isReduced,
  type AudioInfo,
  type Chroma,
  type Colour,
  type DataInfo,
  type FileStructure,
  type LinesKind,
  type MediaInfo,
  type Scan,
  type VideoInfo,
} from '../media/media'
import { framesInFile, SampleClock, timelineSections } from '../lineup/lineup'
import type { Placed, Section, TimelineSection } from '../lineup/section'
import { hasFields } from '../media/scan'
import type { Problem } from '../problem'
import { soundTaken, type SoundTaken, type Written } from './soundtaken'
import { soundRate, tracksTaken } from '../sound/tracks'
import { dividedRate, rateLabel, sameRate, type Frames, type Rate, type Samples, type Seconds } from '../time/rate'
import type { FrameRange } from '../time/range'
import { ofDay } from '../time/midnight'
import { canDropFrame, formatTimecode, parseTimecode, type TimeBase } from '../time/timecode'
import type { SourcePlace } from '../timeline/sourceat'
import type { RecipeSettings } from './settings'
import { trialSide } from './trial'

/** What a deliverable's file will be, worked out from recipe and source before anything runs. */
export interface Output {
  /** The brand of its container. */
  readonly container: string
  readonly indexAt: 'front'
  /** Of MXF files alone. */
  readonly structure?: FileStructure
  readonly video: {
    readonly codec: string
    readonly profile: string | null
    /** Absent in sheets of earlier editions, as is `intra`. */
    readonly level?: string | null
    /** Whether every picture stands alone. */
    readonly intra?: boolean
    readonly width: number
    readonly height: number
    readonly rate: Rate
    readonly scan: Scan
    readonly chroma: Chroma
    readonly bitDepth: number
    readonly pixelAspect: string
    /** Bytes of each picture, where all are of one size; absent in sheets of earlier editions. */
    readonly pictureBytes?: number
    /** What the file states of its colour; absent in sheets of earlier editions. */
    readonly colour?: Colour | null
    /** Of copies as of their source, of what is made none; absent where nobody looked, and in earlier sheets. */
    readonly contradictions?: VideoInfo['contradictions']
    /** Of copies, as far as it goes with the pictures that are copied. */
    readonly presentation?: VideoInfo['presentation']
    /** Of copies as of their source. */
    readonly untold?: VideoInfo['untold']
  } | null
  readonly audio:
    | (Written & {
        readonly codec: string
        readonly sampleRate: number
        readonly bitDepth: number
        /** Tracks that the channels are in; one when absent. */
        readonly tracks?: number
        /** What each of several tracks is, of which the sound is said to be the first; absent of one alone. */
        readonly each?: ReturnType<typeof tracksOf>
      })
    | null
  /** Lines of the blanking that are taken over from the source, track by track; absent where there are none. */
  readonly data?: readonly LinesKind[]
  /** Of the file, whose rate is that of its pictures. */
  readonly frames: Frames
  /** Absent of a file that is of its region alone. */
  readonly sections?: readonly Section[]
  /** Frames of the timeline in each of the file's: two, where its fields are made of them; one when absent. */
  readonly perFrame?: number
  readonly samples: Samples
  readonly start: { readonly frames: Frames; readonly label: string; readonly dropFrame: boolean }
  /** Bytes, forecast. */
  readonly bytes: number
  /** How many bytes that may be off; absent where it follows from how well pictures or sound can be coded. */
  readonly bytesOff?: number
  /** What keeps it from being made. */
  readonly problems: readonly Problem[]
  /** What it is good to know, though it keeps nothing back. */
  readonly notes?: readonly string[]
}

/** How the frames of a file are counted: its rate may be another than the timeline's. */
export function fileBase(file: {
  readonly output: Pick<Output, 'video' | 'start'>
  readonly timeline: TimeBase
}): TimeBase & { readonly start: Frames } {
  const { video, start } = file.output
  return { rate: video?.rate ?? file.timeline.rate, dropFrame: start.dropFrame, start: start.frames }
}

/** Lines of the blanking as a file takes them over that can: those of its source, in order. */
export function keptLines({ data = [] }: Pick<MediaInfo, 'data'>): Pick<Output, 'data'> {
  const kinds = data.flatMap(({ kind }) => (kind === 'ancillary' || kind === 'vbi' ? [kind] : []))
  return kinds.length ? { data: kinds } : {}
}

/** Bytes that lines of the blanking take in each frame. */
export const linesBytes = ({ data = [] }: Pick<Output, 'data'>): number =>
  data.reduce((n, kind) => n + linesRoom[kind], 0)

/** What a source has besides pictures and sound that a file is without; `copies`: its pictures are copied untouched. */
export function lostData(
  { data: kept = [] }: Pick<Output, 'data'>,
  { data = [] }: Pick<MediaInfo, 'data'>,
  copies: boolean,
): DataInfo[] {
  const left = [...kept]
  return data.filter(({ kind }) => {
    if (kind === 'metadata' || (kind === 'pictures' && copies)) return false
    const at = left.findIndex((k) => k === kind)
    if (at >= 0) left.splice(at, 1)
    return at < 0
  })
}

/** What a machine can do, asked once: names of codecs. */
export interface Abilities {
  readonly decodes: readonly string[]
  readonly encodes: readonly string[]
  /** Look-up tables that are there, by their ids. */
  readonly tables?: readonly string[]
}

/** What an output is worked out from. */
export interface OutputRequest {
  readonly settings: RecipeSettings
  readonly source: MediaInfo
  readonly timeline: TimeBase & { readonly start: Frames }
  readonly range: FrameRange
  /** Where the region's first picture was taken from, where its timecode is asked for; null where nothing says. */
  readonly taken?: SourcePlace | null
  /** Frames of `range` that lie before the region itself: a set start is that of the region. */
  readonly before?: Frames
  /** Parts that somebody made of the region, in frames from the first of `range`. */
  readonly parts?: readonly FrameRange[]
  readonly abilities: Abilities
}

/** What pictures of a colour are brought to. */
export function outputColour({ colour }: Pick<RecipeSettings, 'colour'>, source: ColouredPictures | undefined): Colour {
  return systems.find((s) => s.name === colour)?.colour ?? colourOf(source)
}

/** What all kinds of recipe work out alike; `problems` is added to. */
export interface Basis extends SoundTaken {
  readonly video: VideoInfo | undefined
  readonly audio: AudioInfo | undefined
  readonly sampleRate: number
  readonly seconds: Seconds
  readonly width: number
  readonly height: number
  readonly shared: Pick<
    Output,
    'indexAt' | 'frames' | 'sections' | 'perFrame' | 'samples' | 'start' | 'problems' | 'notes'
  >
  readonly picture: Pick<NonNullable<Output['video']>, 'rate' | 'scan' | 'pixelAspect' | 'colour'> | null
  readonly problems: Problem[]
}

/** What each track of the sound of a file is. */
export const tracksOf = ({ audio }: MediaInfo) =>
  audio.map(({ codec, channels, layout, sampleRate, bitDepth, untold }) => ({
    ...{ codec, channels, layout, sampleRate, bitDepth, untold },
  }))

/** What kinds of recipe do differently. */
export interface BasisOptions {
  /** Whether a source without sound is made without any. */
  readonly mute?: boolean
  /** What the file is made of, where that is not its range alone. */
  readonly sections?: readonly Section[]
  /** Frames of the timeline in each of the file's. */
  readonly perFrame?: number
}

/** Works out what all kinds of recipe do alike. */
export function basisOf(
  request: OutputRequest,
  { mute = false, sections = [], perFrame = 1 }: BasisOptions = {},
): Basis {
  const { settings, source, timeline, range } = request
  const problems: Problem[] = []
  const video = source.video[0]
  const audio: AudioInfo | undefined = source.audio[0]
  const rate = dividedRate(timeline.rate, perFrame)
  const counted = settings.start === 'source' && request.taken ? request.taken : timeline
  const base = { rate, dropFrame: counted.dropFrame && canDropFrame(rate) }
  const of = perFrame > 1 ? { perFrame } : {}
  const own = framesInFile(of, range.out - range.in)
  const frames = sections.length ? sections.reduce((n, s) => n + s.frames, 0) : own
  const made = { frames, ...(sections.length ? { sections } : {}), ...of }
  const [programme] = timelineSections(made) as [Placed<TimelineSection>]
  const heardAt = soundRate(source.audio)
  const sampleRate = settings.sampleRate ?? heardAt
  const samples = new SampleClock(made, range, rate, sampleRate).before(frames)
  const start = startOf(request, programme, { ...of, ...base }, problems)
  const notes: string[] = []
  const without = mute && source.audio.length === 0 && settings.channels !== 'none'
  if (without) notes.push('The source has no sound: the file has none either.')
  const sound = soundTaken(without ? { ...settings, channels: 'none' } : settings, source, problems, notes)
  if (audio && heardAt !== sampleRate && sound.route.length > 0)
    notes.push(`The sound is brought from ${heardAt / 1000} to ${sampleRate / 1000} kHz.`)
  if (settings.start === 'source' && request.taken)
    notes.push('Its timecode is that of its first picture’s source, and counts on from there.')
  sayColour(settings, video, request.abilities, problems, notes)
  const fields = video ? hasFields(video.scan) : false
  return {
    video,
    audio,
    ...sound,
    sampleRate,
    seconds: (frames * rate.den) / rate.num,
    width: trialSide(settings.width ?? video?.width ?? 0, settings.trial),
    height: trialSide(settings.height ?? video?.height ?? 0, settings.trial, fields),
    shared: { indexAt: 'front', ...made, samples, start, problems, ...(notes.length ? { notes } : {}) },
    picture: video
      ? {
          rate,
          scan: video.scan,
          pixelAspect: shapeKept(settings) ? video.pixelAspect : '1:1',
          colour: outputColour(settings, video),
        }
      : null,
    problems,
  }
}

/** The timecode of a file's first frame, whose programme lies at a frame of it; says when there is none. */
function startOf(
  request: OutputRequest,
  programme: Placed<TimelineSection>,
  base: TimeBase & Pick<Output, 'perFrame'>,
  problems: Problem[],
): Output['start'] {
  const { settings, timeline, range, before = 0 } = request
  const own = framesInFile(base, timeline.start + range.in + programme.from)
  const set = settings.start === 'timeline' ? null : setStart(request, base, problems)
  const first = settings.start === 'timeline' ? own : set === null ? null : set - framesInFile(base, before)
  const lead = programme.at
  const frames = first === null ? 0 : ofDay(first - lead, base)
  return { frames, label: formatTimecode(frames, base), dropFrame: base.dropFrame }
}

/** The first frame of a region by a start that is not its timeline's; says why there is none. */
function setStart(
  { settings: { start }, timeline, taken }: OutputRequest,
  base: TimeBase & Pick<Output, 'perFrame'>,
  problems: Problem[],
): Frames | null {
  const none = (message: string, fix: string) => {
    problems.push({ code: 'recipe.start', message, fix })
    return null
  }
  if (start !== 'source')
    return (
      parseTimecode(start, base) ?? none(`${start} is not a timecode at this rate.`, 'Type another start timecode.')
    )
  const other = 'Take the timecode of the timeline, or type one.'
  if (!taken) return none('Nothing says which timecode its first picture has in its source.', other)
  if (!sameRate(taken.rate, timeline.rate))
    return none(`The timecode of its first picture’s source counts ${rateLabel(taken.rate)} frames a second.`, other)
  if (taken.frames % (base.perFrame ?? 1) !== 0)
    return none('At half the rate there is no such label as its first picture has in its source.', other)
  return framesInFile(base, taken.frames)
}

/** What a codec makes of pictures of a shape. */
export function encodedAs(codec: string, shape: PictureShape & { readonly bitrate?: number }) {
  const { bitDepth, frameBytes, as } = pictureCodec(codec)!.encode!
  // pictures that are all of one size lean on no other
  return { codec, ...as(shape), bitDepth, contradictions: [], intra: frameBytes !== undefined }
}

/** Whether pictures keep the shape of the source's: then its pixels' too. */
export const shapeKept = ({ width, height }: Pick<RecipeSettings, 'width' | 'height'>): boolean =>
  width === null && height === null

/** Says what is lost of colour, or that it cannot be brought to what is asked for. */
function sayColour(
  settings: RecipeSettings,
  video: VideoInfo | undefined,
  { tables = [] }: Abilities,
  problems: Problem[],
  notes: string[],
): void {
  const there = colourOf(video)
  const wanted = outputColour(settings, video)
  if (settings.table !== null) {
    if (!hasRgb({ ...there, transfer: bt709.transfer }))
      problems.push({
        code: 'recipe.colour',
        message: `Pictures of ${colourText(there)} cannot be made R′G′B′ here, as a look-up table takes them.`,
        fix: 'Leave the look-up table out, or ask for pictures of another colour.',
      })
    if (!tables.includes(settings.table))
      problems.push({
        code: 'recipe.table',
        message: `The look-up table “${settings.table}” is not on the shelf.`,
        fix: 'Add it at the Shelf, or choose another one.',
      })
    else notes.push(`Its pictures go through a look-up table, and are said to be ${colourText(wanted)} after it.`)
  } else if (!convertible(there) && settings.colour !== 'source')
    problems.push({
      code: 'recipe.colour',
      message: `Pictures of ${colourText(there)} are not converted here.`,
      fix: 'Leave the colour as it is, or ask for pictures of BT.709, BT.601 or BT.2020.',
    })
  else if (there.primaries === 9 && wanted.primaries !== 9)
    notes.push(`Colours that ${colourText(wanted)} cannot show are cut off.`)
}

/** Says when a source has no pictures where the recipe wants some. */
export function needPictures({ video, problems }: Basis): void {
  if (!video)
    problems.push({ code: 'recipe.no-pictures', message: 'The source has no pictures.', fix: 'Use a sound recipe.' })
}

/** Says when pictures of the source cannot be decoded here. */
export function needDecodedPictures({ video, problems }: Basis, { decodes }: Abilities): void {
  const closed = video && codecsOf(video).find((c) => !decodes.includes(c))
  if (closed) problems.push(undecoded(`Pictures of kind “${closed}”`, pictureCodec(closed) !== null))
}

/** What is said of essence that cannot be decoded: on this machine, or nowhere here, where its kind is not known. */
const undecoded = (what: string, known: boolean): Problem => ({
  code: 'codec.none',
  message: `${what} cannot be decoded ${known ? 'on this machine' : 'here'}.`,
  fix: known ? 'Use a rewrap, or install the codec package.' : 'Use a rewrap, do without it, or ask for another kind.',
})

/** Says when the decoder of this machine gives less of the pictures than there is. */
export function needDepth({ video: v, problems }: Basis): void {
  if (v && isReduced(v))
    problems.push({
      code: 'codec.depth',
      message: v.reduced
        ? 'One of its sources has more than 8 bit 4:2:0 pictures, which the decoder of this machine makes of them.'
        : `The source has ${v.bitDepth} bit ${v.chroma} pictures, ` +
          'which the decoder of this machine gives as 8 bit 4:2:0.',
      fix: 'Use a rewrap, or accept it with a waiver.',
    })
}

/** Says when sound that is taken of the source cannot be decoded here. */
export function needDecodedSound({ route, problems }: Basis, source: MediaInfo, { decodes }: Abilities): void {
  const kinds = tracksTaken(source.audio, route).flatMap((t) => t.codecs ?? [t.codec])
  const closed = kinds.find((c) => !decodes.includes(c))
  const why = closedIn(source.audio, route)
  if (why) problems.push(why)
  else if (closed !== undefined) problems.push(undecoded(`Sound of kind “${closed}”`, true))
}

/** Says when a codec cannot be encoded here. */
export function needEncoder({ problems }: Basis, codec: string, { encodes }: Abilities, fix: string): void {
  const label = (pictureCodec(codec) ?? soundCodec(codec))?.label ?? codec
  if (!encodes.includes(codec))
    problems.push({
      code: 'codec.none',
      message: `${label} cannot be encoded on this machine.`,
      fix: `Install the codec package, or ${fix}.`,
    })
}

/** Every codec that the pictures of a source are in: one, or those of a timeline's several sources. */
export function codecsOf(video: VideoInfo): readonly string[] {
  return video.codecs ?? [video.codec]
}
