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

/** The ranges of a timeline that a file is made of, of a region's delivered range, in the order of the file. */
export const timelineRanges = (file: Sectioned, region: FrameRange): FrameRange[] =>
  timelineSections(file).map((s) => ({ in: region.in + s.from, out: region.in + s.from + s.frames }))

/** Frames of what is made between each two parts of a timeline in a file. */
export function pauseOf(file: Sectioned): Frames {
  const [first, second] = timelineSections(file)
  return first && second ? second.at - first.at - first.frames : 0
}

/** The frames of a timeline that a file begins and ends with, of a region's delivered range. */
export function programmeRange(file: Sectioned, region: FrameRange): FrameRange {
  const own = timelineRanges(file, region)
  return { in: own[0]!.in, out: own.at(-1)!.out }
}

/** Where in a file a frame stands, counted from the first of its region's delivered range; null where it is not. */
export function frameInFile(file: Sectioned, frame: Frames): Frames | null {
  const s = timelineSections(file).find((x) => frame >= x.from && frame < x.from + x.frames)
  return s ? s.at + frame - s.from : null
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
  /** A frame of the timeline that the file's first would be, were all of it of the timeline: its cadence is kept. */
  private readonly base: Frames
  private readonly first: Samples

  constructor(
    private readonly file: Sectioned,
    private readonly region: FrameRange,
    private readonly rate: Rate,
    readonly sampleRate: number,
  ) {
    const [programme] = timelineSections(file) as [Placed<TimelineSection>]
    this.base = region.in + programme.from - programme.at
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
      const origin = isTimeline(section) ? sampleAtFrame(this.region.in + section.from, this.rate, this.sampleRate) : 0
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
