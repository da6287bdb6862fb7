import { nominalRate, type Rate } from '../time/rate'
import { contentMeter, type ContentFacts } from './content'
import { cutFinder, type FoundCut } from './cuts'
import type { MeasuredHead } from './head'
import { levelMeter, type LevelFacts } from './levels'
import type { Meter } from './meter'
import type { Trace } from './trace'

/** What is found in pictures: stretches in frames from the first one seen. */
export interface PictureFacts extends ContentFacts {
  readonly levels?: LevelFacts
  /** Of a region: what it begins with, which all of this leaves out; frames count from the programme's first. */
  readonly head?: MeasuredHead | null
  /** Of a whole pass only. */
  readonly cuts?: readonly FoundCut[]
}

/** Every measure of pictures in one pass over their traces. */
export function pictureMeters(v: {
  readonly rate: Rate
  readonly width: number
  readonly height: number
}): Meter<Trace, ContentFacts & { readonly cuts: FoundCut[]; readonly levels: LevelFacts }> {
  const content = contentMeter({ rate: v.rate, shortestFreeze: nominalRate(v.rate) })
  const cuts = cutFinder()
  const levels = levelMeter(v.width, v.height)
  return {
    feed(t) {
      content.feed(t)
      cuts.feed(t)
      levels.feed(t)
    },
    result: () => ({ ...content.result(), cuts: cuts.result(), levels: levels.result() }),
  }
}
