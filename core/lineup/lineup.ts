import { nominalRate, type Frames, type Rate, type Samples } from '../time/rate'
import type { FrameRange } from '../time/range'
import { sampleAtFrame } from '../time/samples'
import type { Picture } from '../picture/picture'
import { fitPicture } from '../picture/scale'
import { sectionKind } from './registry'
import {
  isTimeline,
  type LineUpShape,
  type MadeSection,
  type Placed,
  type Section,
  type SectionKind,
  type TimelineSection,
  type Told,
} from './section'

/** Seconds of each section in front of a programme (AMWA AS-11): half a minute in all. */
const head = [
  ['bars', 20],
  ['clock', 7],
  ['black', 3],
] as const

/** Line-up in front of a programme, with its tone at a level (dBFS). */
export function lineUpSections(level: number, rate: Rate): MadeSection[] {
  const second = nominalRate(rate)
  return head.map(([kind, seconds]) => ({
    kind,
    frames: seconds * second,
    ...(kind === 'bars' ? { level } : {}),
  }))
}

/** What a file is made of: of a region alone, when nothing is said. */
export interface Sectioned {
  readonly sections?: readonly Section[]
  readonly frames: Frames
  /** Frames of the timeline in each of the file's: two, where its fields are made of them; else one. */
  readonly perFrame?: number
}

/** The sections of a file, each with the frame it begins at. */
export function placed({ sections, frames }: Sectioned): Placed[] {
  let at = 0
  return (sections ?? [{ kind: 'timeline', from: 0, frames } satisfies TimelineSection]).map((s) => {
    const here = { ...s, at }
    at += s.frames
    return here
  })
}

export const isMade = (s: Placed): s is Placed<MadeSection> => !isTimeline(s)

/** The sections of a file that are of its timeline; there is always one. */
export const timelineSections = (file: Sectioned): Placed<TimelineSection>[] =>
  placed(file).filter((s): s is Placed<TimelineSection> => isTimeline(s))

/** The section that a frame of a file is in. */
export function sectionAt(sections: readonly Placed[], n: Frames): Placed {
  return sections.find((s) => n >= s.at && n < s.at + s.frames) ?? sections.at(-1)!
}

/** Frames of a file before the first of its programme. */
export const leadOf = (file: Sectioned): Frames => timelineSections(file)[0]!.at

/** Frames of a file that are of its timeline. */
export const programmeFrames = (file: Sectioned): Frames => timelineSections(file).reduce((n, s) => n + s.frames, 0)

/** Frames of a file that so many of its timeline are, a begun one not counted. */
export const framesInFile = ({ perFrame = 1 }: Pick<Sectioned, 'perFrame'>, frames: Frames): Frames =>
  Math.floor(frames / perFrame)

/** The ranges of a timeline that a file is made of, of a region's delivered range, in the order of the file. */
export const timelineRanges = (file: Sectioned, region: FrameRange): FrameRange[] =>
  timelineSections(file).map((s) => {
    const first = region.in + s.from
    return { in: first, out: first + s.frames * (file.perFrame ?? 1) }
  })

/** Frames of the timeline that are as long as what is made between each two parts of it in a file. */
export function pauseOf(file: Sectioned): Frames {
  const [first, second] = timelineSections(file)
  return first && second ? (second.at - first.at - first.frames) * (file.perFrame ?? 1) : 0
}

/** The frames of a timeline that a file begins and ends with, of a region's delivered range. */
export function programmeRange(file: Sectioned, region: FrameRange): FrameRange {
  const own = timelineRanges(file, region)
  return { in: own[0]!.in, out: own.at(-1)!.out }
}

/**
 * Where in a file a frame of the timeline stands, counted from the first of its region's delivered range; null where
 * it is not.
 */
export function frameInFile(file: Sectioned, frame: Frames): Frames | null {
  for (const s of timelineSections(file)) {
    const n = framesInFile(file, frame - s.from)
    if (n >= 0 && n < s.frames) return s.at + n
  }
  return null
}

/** The frame of a file that one of its programme is, counted over its parts as if nothing lay between them. */
export function frameOfProgramme(file: Sectioned, n: Frames): Frames {
  let left = n
  for (const s of timelineSections(file)) {
    if (left < s.frames) return s.at + left
    left -= s.frames
  }
  return file.frames - 1
}

/** Samples of a file that are of one section. */
export interface SoundPart {
  readonly section: Placed
  /** The first of them: of the timeline, or of what is made for the section. */
  readonly from: Samples
  readonly count: Samples
}

/** Samples of a file before each of its frames, and where the sound of its sections is. */
export class SampleClock {
  /** What the file's first frame would be, were all of it and before it of the timeline: its cadence is kept. */
  private readonly base: Frames
  private readonly first: Samples

  constructor(
    private readonly file: Sectioned,
    private readonly region: FrameRange,
    /** That of the file. */
    private readonly rate: Rate,
    readonly sampleRate: number,
  ) {
    const [programme] = timelineSections(file) as [Placed<TimelineSection>]
    this.base = framesInFile(file, region.in + programme.from) - programme.at
    this.first = sampleAtFrame(this.base, rate, sampleRate)
  }

  /** Samples of the file before a frame of it. */
  before(n: Frames): Samples {
    return sampleAtFrame(this.base + n, this.rate, this.sampleRate) - this.first
  }

  /** The sections that samples [from, from + count) of the file are of. */
  parts(from: Samples, count: Samples): SoundPart[] {
    const out: SoundPart[] = []
    for (const section of placed(this.file)) {
      const begins = this.before(section.at)
      const [a, b] = [Math.max(from, begins), Math.min(from + count, this.before(section.at + section.frames))]
      if (b <= a) continue
      const first = isTimeline(section) ? framesInFile(this.file, this.region.in + section.from) : 0
      const origin = sampleAtFrame(first, this.rate, this.sampleRate)
      out.push({ section, from: origin + a - begins, count: b - a })
    }
    return out
  }
}

/** Draws what is made in a file, one picture kept: the same object for as long as it stays the same. */
export class LineUpPictures {
  private last: { readonly key: string; readonly picture: Picture } | null = null

  constructor(
    private readonly file: Sectioned,
    /** That of the file. */
    private readonly rate: Rate,
    private readonly shape: LineUpShape,
    private readonly told: Told,
  ) {}

  /** The picture of a frame of the file, which must be one of a section that is made. */
  at(n: Frames): Picture {
    const sections = placed(this.file)
    const section = sectionAt(sections, n) as Placed<MadeSection>
    const next = sections.find((s) => isTimeline(s) && s.at > n)
    const left = Math.ceil(((next?.at ?? this.file.frames) - n) / nominalRate(this.rate))
    const kind = sectionKind(section.kind)
    const which = kind.which(left)
    const key = `${section.at} ${which}`
    if (this.last?.key !== key) this.last = { key, picture: this.drawn(kind, which, section) }
    return this.last.picture
  }

  private drawn(kind: SectionKind, which: number, section: MadeSection): Picture {
    const { width, height, pixelAspect } = this.shape
    const wide = kind.square ? Math.round((width * pixelAspect) / 2) * 2 : width
    const picture = kind.draw(which, { ...this.shape, width: wide }, this.told, section)
    return wide === width ? picture : fitPicture(picture, { width, height, fit: 'stretch' })
  }
}

/** What is made for a file, in words: “20 s bars and tone, 7 s clock and 3 s black”. */
export function madeWords(sections: readonly MadeSection[], rate: Rate): string[] {
  const second = nominalRate(rate)
  return sections.map((s) => `${Number((s.frames / second).toFixed(2))} s ${sectionKind(s.kind).label}`)
}
