import { joined, uncovered, type FrameRange } from '../time/range'
import type { Frames } from '../time/rate'
import { flashMeter, type FlashOptions } from './flashes'
import type { Meter } from './meter'
import { columns, largestChange, largestColourChange, rows, type Trace } from './trace'

/** Stretches of pictures that a person should look at. Frames count from the first one fed. */
export interface ContentFacts {
  readonly black: readonly FrameRange[]
  readonly freeze: readonly FrameRange[]
  readonly flashes: readonly FrameRange[]
}

export interface ContentOptions extends FlashOptions {
  /** Still stretches shorter than this are not reported. */
  readonly shortestFreeze: Frames
}

/** Steps of 8 bit by which the colour of black may be off, as that of tapes is: it is seen where it is more. */
const tinge = 12

/** Whether nothing is seen in a picture: a thousandth of it at most is lighter than black, and it has no colour. */
const isBlack = (t: Trace) =>
  t.bright < (columns * rows * 16) / 1000 && t.colour.every((c) => Math.abs(c - 128) <= tinge)

/**
 * Whether a picture shows what the one before does: no cell of it changes by a step, nor by more in colour than what
 * coding a still picture with loss may do to it.
 */
const isSame = (a: Trace, b: Trace) => largestChange(a, b) < 0.9 && largestColourChange(a, b) <= 3

/** Whether it still does after a while, in which coding makes it better by and by: a fade within a minute does more. */
const isStillSame = (a: Trace, b: Trace) => largestChange(a, b) < 4 && largestColourChange(a, b) <= 6

/** Black, still and flashing stretches in one pass; see {@link flashMeter}. */
export function contentMeter(options: ContentOptions): Meter<Trace, ContentFacts> {
  const { shortestFreeze } = options
  let previous: Trace | null = null
  let frame = 0
  let blackFrom = -1
  let still: { readonly from: Frames; readonly first: Trace } | null = null
  const black: FrameRange[] = []
  const stills: FrameRange[] = []
  const flashes = flashMeter(options)
  const rested = () => {
    if (still && frame - still.from >= shortestFreeze) stills.push({ in: still.from, out: frame })
  }

  return {
    feed(t) {
      flashes.feed(t)
      if (isBlack(t)) {
        if (blackFrom < 0) blackFrom = frame
      } else if (blackFrom >= 0) {
        black.push({ in: blackFrom, out: frame })
        blackFrom = -1
      }
      if (previous) {
        const goesOn = isSame(previous, t)
        if (!goesOn || (still && !isStillSame(still.first, t))) {
          rested()
          still = null
        }
        if (goesOn) still ??= { from: frame - 1, first: previous }
      }
      previous = t
      frame++
    },
    result() {
      rested()
      const blacks = blackFrom >= 0 ? [...black, { in: blackFrom, out: frame }] : black
      // one picture after another is two stretches; one that changed a little meanwhile is in both, and they are one
      const seen = joined(stills, -1).flatMap((r) => uncovered(r, blacks))
      const freeze = seen.filter((r) => r.out - r.in >= shortestFreeze)
      return { black: blacks, freeze, flashes: flashes.result() }
    },
  }
}
