import type { FrameRange } from '../time/range'
import type { Frames, Rate } from '../time/rate'
import type { Meter } from './meter'
import { columns, largestChange, rows, type Trace } from './trace'

/** Stretches of pictures that a person should look at. Frames count from the first one fed. */
export interface ContentFacts {
  readonly black: readonly FrameRange[]
  readonly freeze: readonly FrameRange[]
  readonly flashes: readonly FrameRange[]
}

export interface ContentOptions {
  readonly rate: Rate
  /** Still stretches shorter than this are not reported. */
  readonly shortestFreeze: Frames
}

/** Luminance in cd/m² of a narrow-range 8-bit code on a display of 200 cd/m² peak with BT.1886 gamma. */
const luminance = Float64Array.from({ length: 256 }, (_, v) => 200 * Math.max(0, Math.min(1, (v - 16) / 219)) ** 2.4)

/**
 * Black, still and flashing stretches in one pass. Flashes follow ITU-R BT.1702: an opposing pair of changes of
 * 20 cd/m² or more, the darker state under 160 cd/m², over more than a quarter of the screen; more than three pairs in
 * a second are reported. This is a warning instrument, not a certified one.
 */
export function contentMeter({ rate, shortestFreeze }: ContentOptions): Meter<Trace, ContentFacts> {
  const cells = columns * rows
  let previous: Trace | null = null
  let frame = 0
  let blackFrom = -1
  let freezeFrom = -1
  const black: FrameRange[] = []
  const freeze: FrameRange[] = []
  const second = Math.round(rate.num / rate.den)
  /** Per cell: luminance at the last turning point, and the direction since. */
  const turn = new Float32Array(cells)
  const transitions: { frame: Frames; up: boolean }[] = []

  function flash(mean: Float32Array) {
    let up = 0
    let down = 0
    for (let i = 0; i < cells; i++) {
      const l = luminance[Math.max(0, Math.min(255, Math.round(mean[i]!)))]!
      const change = l - turn[i]!
      if (Math.abs(change) >= 20 && Math.min(l, turn[i]!) < 160) {
        if (change > 0) up++
        else down++
        turn[i] = l
      }
    }
    if (Math.max(up, down) > cells / 4) transitions.push({ frame, up: up > down })
  }

  return {
    feed(t) {
      const mean = new Float32Array(cells)
      for (let i = 0; i < cells; i++) mean[i] = t.luma[i]! / 16
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
        flash(mean)
      } else for (let i = 0; i < cells; i++) turn[i] = luminance[Math.max(0, Math.min(255, Math.round(mean[i]!)))]!
      previous = t
      frame++
    },
    result() {
      const blacks = blackFrom >= 0 ? [...black, { in: blackFrom, out: frame }] : black
      const stills =
        freezeFrom >= 0 && frame - freezeFrom >= shortestFreeze ? [...freeze, { in: freezeFrom, out: frame }] : freeze
      const isBlack = (r: FrameRange) => blacks.some((b) => b.in <= r.in + 1 && b.out >= r.out - 1)
      return { black: blacks, freeze: stills.filter((r) => !isBlack(r)), flashes: flashRuns(transitions, second) }
    },
  }
}

/** Stretches in which more than three pairs of opposing transitions fall within one second. */
function flashRuns(transitions: readonly { frame: Frames; up: boolean }[], second: Frames): FrameRange[] {
  const alternating = transitions.filter((t, i) => i === 0 || t.up !== transitions[i - 1]!.up)
  const out: FrameRange[] = []
  for (let i = 0; i + 7 < alternating.length; i++) {
    const from = alternating[i]!.frame
    const to = alternating[i + 7]!.frame + 1
    if (to - from > second) continue
    const last = out.at(-1)
    if (last && from <= last.out) out[out.length - 1] = { in: last.in, out: to }
    else out.push({ in: from, out: to })
  }
  return out
}
