import type { OwnSound } from '../analysis/ownsound'
import type { PictureFacts } from '../analysis/pictures'
import type { SoundFacts } from '../analysis/soundfacts'
import type { SoundTrouble } from '../analysis/soundstretches'
import type { AncillaryFacts } from '../media/ancillary'
import type { UnitFacts } from '../codec/unitfacts'
import type { AudioInfo, Colour, DataInfo, FileStructure, MediaInfo, Scan } from '../media/media'
import type { TimecodeFacts } from '../media/timecodes'
import type { Problem } from '../problem'
import type { Output } from '../recipe/output'
import type { Overrides, Recipe } from '../recipe/recipe'
import type { Trial } from '../recipe/trial'
import { listed } from '../text'
import type { KindOfRegion } from '../split/kinds'
import type { Surround } from '../sound/tracks'
import type { FrameRange } from '../time/range'
import { framesToSeconds, type Frames, type Seconds } from '../time/rate'
import type { TimeBase } from '../time/timecode'

/** Of several numbers every one has to be as expected. */
export type Value = string | number | boolean | readonly number[] | readonly string[] | Readonly<Record<string, string>>

/** One value of a measure: for judging, for people, and where it comes from. */
export interface Reading {
  /** Null when it was tried and could not be measured; the text says why. */
  readonly value: Value | null
  readonly text: string
  readonly from: string
  /**
   * Where it tells of a source alone: `said` by its headers, or `changed` on the way; or of a file by a `rough`
   * forecast. Then it decides nothing.
   */
  readonly aside?: 'said' | 'changed' | 'rough'
  /**
   * How far it may move, either way, in words where its unit will not do, and what moves it, e.g. `before it is coded`;
   * it is exact where absent.
   */
  readonly give?: { readonly by: number; readonly text?: string; readonly when: string }
  /** What a fix works with, where the value alone does not tell it: e.g. the channels that are silent, from 1. */
  readonly which?: readonly number[]
  /** What is at fault, each in words of its own, where one fault more is another thing than the one that was there. */
  readonly faults?: readonly string[]
  /** Where what it tells of is, from the first frame that it is of. */
  readonly where?: readonly { readonly in: Seconds; readonly out: Seconds }[]
  /** dB that it goes too far. */
  readonly over?: number
}

/** Readings by the name of their measure. */
export type Readings = Record<string, Reading>

/** Bytes that are free at a destination, those that all that goes there will need, and by how many that may be off. */
export interface Room {
  readonly free: number
  readonly needed: number
  readonly rough: number
}

/** What a file is, or will be. */
export interface Described {
  readonly container: string
  readonly indexAt: 'front' | 'end' | 'fragments'
  /** Of MXF files alone. */
  readonly structure: FileStructure | null
  /** Of the file; forecast, before it is there. */
  readonly bytes: number
  /** How many bytes a forecast may be off, null where coding decides; absent of what is there. */
  readonly bytesOff?: number | null
  readonly video:
    | (Omit<NonNullable<Output['video']>, 'rate'> & {
        readonly rate: TimeBase['rate']
        readonly ownRate?: TimeBase['rate']
        /** False of files that do not say their rate. */
        readonly rateStated?: boolean
        /** False of a file whose frames last differently long. */
        readonly constantRate?: boolean
      })
    | null
  /** How many tracks of pictures a file has, of which `video` is the first; absent of what is forecast. */
  readonly pictureTracks?: number
  readonly audio:
    | (NonNullable<Output['audio']> & {
        /** Tracks of a file that players leave out, in words; empty where there are none. */
        readonly silenced?: string
        readonly untold?: AudioInfo['untold']
      })
    | null
  /** Null where the rate of its pictures is not known. */
  readonly durationSeconds: Seconds | null
  readonly durationText: string
  /**
   * `dropFrame` null where its labels do not tell; `rate`: that its timecode counts at, where it is a timecode of the
   * file's own.
   */
  readonly start: {
    readonly label: string
    readonly dropFrame: boolean | null
    readonly rate?: TimeBase['rate']
  } | null
  /** Frames between the ends of pictures and sound, of whichever track is furthest off; absent without both. */
  readonly apart?: number
  /** How much later than the pictures the sound begins; absent without both. */
  readonly late?: Seconds
}

/** How an end of a written file compares with the timeline's own picture. */
export interface EndPicture {
  /** Mean difference of luma or of a colour difference, whichever is more, 0 … 255. */
  readonly difference: number
  /** Frames it is shifted by, when a neighbour fits much better than the frame itself. */
  readonly shift: Frames
  /** It was not decoded: as it is coded, it is the source's. */
  readonly copied?: true
}

/** What stands in front of a programme in its file. */
export interface LineUp {
  /** `line-up`, `clock`, `black`, in order; none where there is no such thing. */
  readonly parts: readonly string[]
  /** How long each lasts, where that is known. */
  readonly lengths: Readonly<Record<string, Seconds>>
  readonly text: string
  /** Peak of its tone in each channel, dBFS, null where there is none; null where not all channels could be heard. */
  readonly tones: readonly (number | null)[] | null
  /** The label of the programme's first frame; null where it could not be told. */
  readonly start: string | null
  /** What the programme has of it at its own beginning, where it was made besides: then it is there twice. */
  readonly again?: string
  /** The programme's length, as a label as well. */
  readonly seconds: Seconds
  readonly length: string
}

/** What coded pictures say of themselves: the captions absent where that is not known of those of a file. */
export interface CodedPictures extends Pick<UnitFacts, 'leaning'> {
  readonly captions?: UnitFacts['captions']
  /** They are those of the source, of which a file takes some. */
  readonly ofSource?: boolean
  /** Why they were not read. */
  readonly unread?: string
}

/** What is known of a file, a region or a machine; each measure reads what it asks about, when it is there. */
export interface Evidence {
  readonly described?: Described
  /** What is not whole in the file itself. */
  readonly damage?: readonly Problem[]
  /** Whether its pictures were all looked through, so that those that cannot be decoded are among the damage. */
  readonly lookedThrough?: boolean
  /** What keeps the file from being made here. */
  readonly obstacles?: readonly Problem[]
  /** Whether what may keep it from being made is not all known yet. */
  readonly awaited?: boolean
  readonly sound?: SoundFacts
  /** What a file states of its own sound: LUFS, null where it states none. */
  readonly stated?: { readonly loudness: number | null }
  /** How many bits of samples carry anything; null where all are nought, `floats` where they are no whole numbers. */
  readonly carried?: number | 'floats' | null
  /** How many bits samples of the source have, which are written as they are. */
  readonly had?: number
  /** Whether every sample of what is written of `sound` is that of the source, its channels in their pairs. */
  readonly soundKept?: boolean
  /** dB on top of `sound`. */
  readonly gain?: number
  readonly trouble?: SoundTrouble
  readonly pictures?: PictureFacts
  /** What `pictures` are said to be where they come from. */
  readonly scan?: Scan
  /** What labels of places in `trouble` and `pictures` count from. */
  readonly base?: TimeBase & { readonly start: Frames }
  /** The timecode that a file's frames are counted by, and all it has, that one first. */
  readonly file?: TimeBase & { readonly start: Frames }
  readonly timecodes?: readonly TimecodeFacts[]
  /** What stands in front of the programme, and where that begins. */
  readonly lineUp?: LineUp
  /** Access units of a file's pictures, and how many bytes of them there are. */
  readonly units?: {
    readonly count: number
    readonly bytes: number
    readonly least: number
    readonly most: number
    readonly rate: TimeBase['rate']
  }
  /** Colour as a file states it, and as it was to. */
  readonly colours?: { readonly written: Colour | null; readonly asked: Colour | null }
  readonly ends?: { readonly first: EndPicture; readonly last: EndPicture }
  /** How the sound of a written file compares with the timeline's; null where it has none. */
  readonly ownSound?: OwnSound | null
  readonly metadata?: Readonly<Record<string, string>>
  readonly trial?: Trial
  /** The raster of a deliverable, and what its outlet's recipe would give. */
  readonly rasters?: Readonly<Record<'here' | 'outlet', { readonly width: number; readonly height: number }>>
  /** Frames (samples, of a file of sound alone) to be delivered with a region each way, and how many there are. */
  readonly handles?: {
    readonly wanted: Frames
    readonly before: Frames
    readonly after: Frames
    readonly rate: TimeBase['rate']
  }
  /** Source channels that are written, from 0, −1 for silence; peaks of all there are over the region, dBFS. */
  readonly heard?: {
    readonly route: readonly number[]
    readonly peaks: readonly (number | null)[]
    /** They are brought together to fewer. */
    readonly together?: true
    /** Mixes in surround among the source's channels; absent where there are none. */
    readonly surrounds?: readonly Surround[]
  }
  /** What the channels of a file are said to be, of ours by its source, in order; null where nothing says it. */
  readonly layout?: string | null
  /** Highest samples of the channels of sound as it will be made, dBFS; `copied`: it is not made. */
  readonly driven?: readonly (number | null)[] | 'copied'
  /** Whether there is an alpha channel. */
  readonly alpha?: { readonly source: boolean; readonly file: boolean }
  /** What is drawn into pictures, in words, and whether they are those of a master. */
  readonly drawn?: { readonly what: readonly string[]; readonly master: boolean }
  /** What is in a file's ancillary packets; null where it has none. */
  readonly ancillary?: AncillaryFacts | null
  /** What a file's coded pictures say of themselves; null of those that are made here, which are known. */
  readonly coded?: CodedPictures | null
  /** What a file has besides pictures and sound. */
  readonly besides?: readonly DataInfo[]
  /** Tracks of the source besides pictures and sound, and those of them that the file is without. */
  readonly data?: {
    readonly source: readonly DataInfo[]
    readonly lost: readonly DataInfo[]
    /** Why its coded pictures, which may carry some, were not read. */
    readonly unread?: string
  }
  /** Of a region; null when nobody said. */
  readonly kind?: KindOfRegion | null
  readonly name?: { readonly file: string; readonly bad: string | null }
  /** Bytes. */
  readonly room?: Room
}

/** What a value must be. */
export type Expectation =
  | { readonly equals: string | number | boolean }
  | { readonly oneOf: readonly (string | number | boolean)[] }
  | { readonly min?: number; readonly max?: number }
  | { readonly target: number; readonly tolerance: number }
  /** `says`: what that comes to, in words. */
  | { readonly matches: string; readonly says?: string | undefined }
  | { readonly includes: readonly string[] }
  | { readonly fields: readonly FieldRule[] }

/** What a field of programme metadata must be; everything that is said of it holds. */
export interface FieldRule {
  readonly name: string
  readonly form?: 'text' | 'number' | 'timecode' | 'date' | undefined
  readonly optional?: boolean | undefined
  /** Letters. */
  readonly longest?: number | undefined
  readonly oneOf?: readonly string[] | undefined
  readonly matches?: string | undefined
  /** What has to match, in words. */
  readonly says?: string | undefined
  /** A measure whose reading it has to repeat. */
  readonly is?: string | undefined
}

/** What a plain fix is worked out from. */
export interface FixRequest {
  readonly expect: Expectation
  readonly forecast: Reading | null
  readonly source: Reading | null
  readonly recipe: Recipe
  readonly media: MediaInfo
}

/** What the pass over a whole timeline found; null what it has not got to. */
export interface Found {
  readonly pictures: PictureFacts | null
  readonly scan: Scan | null
  readonly trouble: SoundTrouble | null
}

export const groups = ['structure', 'picture', 'time', 'sound', 'content', 'metadata'] as const
export type Group = (typeof groups)[number]

/** Something a rule can ask about. */
export interface Measure {
  readonly name: string
  readonly label: string
  readonly group: Group
  /** Its text counts or lists: it is said behind a colon, where others say that they are something. */
  readonly counts?: true
  /** Whether it follows from what a file is made of, section by section. */
  readonly ofSections?: true
  /** Whether it is seen in pictures as they are shown: what is drawn into them, or changes their colour, changes it. */
  readonly seen?: true
  /** Whether it is seen in the fields of pictures: making fields, and joining them, changes it. */
  readonly ofFields?: true
  /** Whether it is of levels beyond black and white, which another size changes, and files that cannot hold them. */
  readonly ofLevels?: true
  /** Whether it follows from what coded pictures say of themselves, where they are copied. */
  readonly ofUnits?: true
  /**
   * How far it may move, as measured here: when sound is coded with loss, by the kbit/s of each channel; when it is
   * brought to another rate; when it is rounded to 16 bits.
   */
  readonly moves?: {
    coded(kilobits: number): number
    readonly resampled: number
    readonly rounded?: number
  }
  /** Written behind numbers of expectations, with a space before it. */
  readonly unit?: string
  /** When it can be answered at all: before a run only, or by a written file only. */
  readonly stage?: 'before' | 'written'
  /** Whether it asks about pictures, so that files without any have nothing to answer. */
  readonly ends?: boolean
  /** Whether it is of pictures, where its group does not tell. */
  readonly ofPictures?: true
  read(e: Evidence): Omit<Reading, 'from'> | null
  /** Where in a timeline that which it asks about was found, in order; absent of what has no place. */
  places?(found: Found): readonly FrameRange[]
  /** A value that is expected as its readings have it, where people write it otherwise as well. */
  means?(expected: string | number | boolean): string | number | boolean
  /** An expectation in words, where the common ones will not do. */
  words?(e: Expectation): string | null
  /** Settings that would make a rule pass, when there is a plain fix. */
  fix?(request: FixRequest): Overrides | null
}

/** The one value an expectation asks for, or the first of several. */
export function wanted(e: Expectation): string | number | boolean | null {
  return 'equals' in e ? e.equals : 'oneOf' in e ? (e.oneOf[0] ?? null) : null
}

/** A value said as it is, or in other words. */
export function said(value: Value | null, text = String(value)): Omit<Reading, 'from'> {
  return { value, text }
}

/** A measure of the pictures as they are described. */
export function ofPictures(
  name: string,
  label: string,
  of: (v: NonNullable<Described['video']>) => Omit<Reading, 'from'> | null,
  more: Partial<Measure> = {},
): Measure {
  return {
    name,
    label,
    group: 'picture',
    ofPictures: true,
    read: ({ described }) => (described?.video ? of(described.video) : null),
    ...more,
  }
}

/** Stretches in seconds, as readings tell where they are. */
export const placed = (
  list: readonly FrameRange[],
  { rate }: NonNullable<Evidence['base']>,
): Pick<Reading, 'where'> => ({
  where: list.map((r) => ({ in: framesToSeconds(r.in, rate), out: framesToSeconds(r.out, rate) })),
})

/** What is said of a trait of pictures, where the file tells it: what is only usual was not measured. */
export const ifTold = (
  v: NonNullable<Described['video']>,
  of: 'scan' | 'chroma' | 'bitDepth',
  text: string,
): Omit<Reading, 'from'> => (v.untold?.includes(of) ? said(null, notTold(text)) : said(v[of], text))

/** What is said where a file does not tell what is asked. */
export const notTold = (usual: string) => `not told by the file (${usual} is usual)`

/** What is said of several tracks as one: `mixed` where they are not alike, nothing where it is not told of all. */
function ofEach(list: readonly (Omit<Reading, 'from'> | null)[]): Omit<Reading, 'from'> | null {
  const [first = null] = list
  const untold = list.find((r) => r === null || r.value === null)
  if (untold !== undefined || list.every((r) => r!.value === first!.value)) return untold ?? first
  const texts = [...new Set(list.map((r) => r!.text))]
  const tracks = (text: string) => list.flatMap((r, i) => (r!.text === text ? [String(i + 1)] : []))
  return said(
    'mixed',
    texts.map((t) => `${t} in ${tracks(t).length > 1 ? 'tracks' : 'track'} ${listed(tracks(t))}`).join(', '),
  )
}

/** A measure of the sound as it is described; `of` is asked of each of its tracks. */
export function ofSound(
  name: string,
  label: string,
  of: (a: NonNullable<Described['audio']>) => Omit<Reading, 'from'> | null,
  more: Partial<Measure> = {},
): Measure {
  return {
    name,
    label,
    group: 'sound',
    read({ described }) {
      const audio = described?.audio
      return audio ? ofEach((audio.each ?? [{}]).map((track) => of({ ...audio, ...track }))) : null
    },
    ...more,
  }
}

/** Tenths with their unit, the minus as people write it. */
export function tenths(v: number, unit: string): string {
  return `${v.toFixed(1).replace('-', '−')} ${unit}`
}
