import type { LumaWeights } from '../media/colour'
import type { Picture } from '../picture/picture'
import type { Frames, Samples } from '../time/rate'

/** A stretch of a delivered file: of the timeline, or of what is made for it. */
export type Section = TimelineSection | MadeSection

export interface TimelineSection {
  readonly kind: 'timeline'
  /** Frames of the timeline from the first of its region's delivered range. */
  readonly from: Frames
  readonly frames: Frames
}

export interface MadeSection {
  /** The name of a {@link SectionKind}. */
  readonly kind: string
  readonly frames: Frames
  /** Peak of its tone in dBFS, 0 being a full-scale sine. */
  readonly level?: number
}

/** A section and the frame of its file that it begins at. */
export type Placed<S extends Section = Section> = S & { readonly at: Frames }

/** What is to be read in line-up: of what it stands in front. */
export interface Told {
  readonly show: string
  readonly title: string
  /** Further lines: what it is, and its value. */
  readonly lines: readonly (readonly [name: string, value: string])[]
}

export interface LineUpShape extends Pick<Picture, 'width' | 'height' | 'chroma' | 'bitDepth'> {
  /** How much wider than high a pixel is. */
  readonly pixelAspect: number
  /** Weights of the colours of the file, which bars are of. */
  readonly weights: LumaWeights
}

/** Something that is made in front of a programme: a new one is its own file and a line in the registry. */
export interface SectionKind {
  readonly kind: string
  /** As in “20 s bars and tone”. */
  readonly label: string
  /** Whether it is drawn in pixels as wide as high, whatever those of the file are: it has what is round. */
  readonly square?: true
  /** Which of its pictures a frame has; `left`: seconds until the programme begins, with the one that runs. */
  which(left: number): number
  draw(which: number, shape: LineUpShape, told: Told, section: MadeSection): Picture
  /** Samples [from, from + count) of its sound, the same for each channel that is not mute; null is silence. */
  sound: ((section: MadeSection, from: Samples, count: Samples, sampleRate: number) => Float32Array) | null
}

export const isTimeline = (s: Section): s is TimelineSection => s.kind === 'timeline'
