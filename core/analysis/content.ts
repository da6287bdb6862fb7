import type { FrameRange } from '../time/range'
import type { Frames } from '../time/rate'
import { flashMeter, type FlashOptions } from './flashes'
import type { Meter } from './meter'
import { columns, largestChange, rows, type Trace } from './trace'

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

/** Black, still and flashing stretches in one pass; see {@link flashMeter}. */
export function contentMeter(options: ContentOptions): Meter<Trace, ContentFacts> {
  const { shortestFreeze } = options
  let previous: Trace | null = null
  let frame = 0
  let blackFrom = -1
  let freezeFrom = -1
  const black: FrameRange[] = []
  const freeze: FrameRange[] = []
  const flashes = flashMeter(options)

  return {
    feed(t) {
      flashes.feed(t)
      const dark = t.bright < (columns * rows * 16) / 1000
      if (dark) {
        if (blackFrom < 0) blackFrom = frame
      } else if (blackFrom >= 0) {
        black.push({ in: blackFrom, out: frame })
        blackFrom = -1
      }
      if (previous) {
        if (largestChange(previous, t) < 0.9) {
          if (freezeFrom < 0) freezeFrom = frame - 1
        } else if (freezeFrom >= 0) {
          if (frame - freezeFrom >= shortestFreeze) freeze.push({ in: freezeFrom, out: frame })
          freezeFrom = -1
        }
      }
      previous = t
      frame++
    },
    result() {
      const blacks = blackFrom >= 0 ? [...black, { in: blackFrom, out: frame }] : black
      const stills =
        freezeFrom >= 0 && frame - freezeFrom >= shortestFreeze ? [...freeze, { in: freezeFrom, out: frame }] : freeze
      const isBlack = (r: FrameRange) => blacks.some((b) => b.in <= r.in + 1 && b.out >= r.out - 1)
      return { black: blacks, freeze: stills.filter((r) => !isBlack(r)), flashes: flashes.result() }
    },
  }
}
