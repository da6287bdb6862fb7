import { overlaps, overPieces, type FrameRange, type Piece } from '../time/range'
import { nominalRate, type Frames, type Rate } from '../time/rate'
import { contentMeter, type ContentFacts } from './content'
import { cutFinder, type FoundCut } from './cuts'
import type { MeasuredHead } from './head'
import { levelMeter, type LevelFacts } from './levels'
import type { Meter } from './meter'
import type { Trace } from './trace'

/** What is found in pictures: stretches in frames from the first one seen. */
export interface PictureFacts extends ContentFacts {
  readonly levels?: LevelFacts
  /** Pictures that could not be decoded, of a region from its very first on; absent where all could. */
  readonly damaged?: readonly FrameRange[]
  /** Of a region: what it begins with, which all of this leaves out; frames count from the programme's first. */
  readonly head?: MeasuredHead | null
  /** Of a whole pass only. */
  readonly cuts?: readonly FoundCut[]
}

type Measured = PictureFacts & { readonly levels: LevelFacts }

interface Shape {
  readonly rate: Rate
  readonly width: number
  readonly height: number
}

/** Stretches of pictures that could not be decoded. */
export function damageFinder(): Meter<Trace, readonly FrameRange[]> {
  const out: { in: Frames; out: Frames }[] = []
  let frame = 0
  return {
    feed(t) {
      const last = out.at(-1)
      if (t.damaged && last?.out === frame) last.out++
      else if (t.damaged) out.push({ in: frame, out: frame + 1 })
      frame++
    },
    result: () => out,
  }
}

/** The same pictures counted otherwise: their stretches as they lie over pieces of something longer. */
export function picturesOver<F extends PictureFacts>(facts: F, pieces: readonly Piece[]): F {
  const { black, freeze, flashes, levels, damaged } = facts
  return {
    ...facts,
    black: overPieces(black, pieces),
    freeze: overPieces(freeze, pieces),
    flashes: overPieces(flashes, pieces),
    ...(levels ? { levels: { ...levels, excursions: overPieces(levels.excursions, pieces) } } : {}),
    ...(damaged ? { damaged: overPieces(damaged, pieces) } : {}),
  }
}

/** What is seen in pictures as a whole, and which of them could not be decoded. */
export function contentMeters({ rate, width, height }: Shape): Meter<Trace, Measured> {
  const content = contentMeter({ rate, shortestFreeze: nominalRate(rate) })
  const levels = levelMeter(width, height)
  const finder = damageFinder()
  return {
    feed(t) {
      content.feed(t)
      levels.feed(t)
      finder.feed(t)
    },
    result() {
      const found = content.result()
      const damaged = finder.result()
      // a picture that stands in for others is no freeze of the programme
      const freeze = found.freeze.filter((r) => !damaged.some((d) => overlaps(d, r)))
      return { ...found, freeze, levels: levels.result(), ...(damaged.length ? { damaged } : {}) }
    },
  }
}

/** Every measure of pictures in one pass over their traces. */
export function pictureMeters(v: Shape): Meter<Trace, Measured & { readonly cuts: FoundCut[] }> {
  const content = contentMeters(v)
  const cuts = cutFinder()
  return {
    feed(t) {
      content.feed(t)
      cuts.feed(t)
    },
    result: () => ({ ...content.result(), cuts: cuts.result() }),
  }
}
