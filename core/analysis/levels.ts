import type { FrameRange } from '../time/range'
import type { Meter } from './meter'
import type { Trace } from './trace'

/** Levels of pictures over a file, and the area that is not bars. */
export interface LevelFacts {
  /**
   * Frames with more than 1 % of the picture outside −1 % … 103 % in luma, or −5 % … 105 % in R′, G′, B′ (EBU R
   * 103), and the largest share, in per cent.
   */
  readonly excursions: readonly (FrameRange & { readonly share: number })[]
  /** Lowest and highest luma, in per cent of the nominal range. */
  readonly lowest: number
  readonly highest: number
  /** The picture without the bars burnt into it; null when there are none. */
  readonly active: { readonly x: number; readonly y: number; readonly width: number; readonly height: number } | null
}

/** Measures levels and bars of pictures of a size. */
export function levelMeter(width: number, height: number): Meter<Trace, LevelFacts> {
  const excursions: { in: number; out: number; share: number }[] = []
  const bars: [number[], number[], number[], number[]] = [[], [], [], []]
  let [lowest, highest, frame] = [Infinity, -Infinity, 0]
  return {
    feed(t) {
      const share = Math.max(t.outside.luma, t.outside.gamut) / 10_000
      lowest = Math.min(lowest, t.lowest / 10)
      highest = Math.max(highest, t.highest / 10)
      if (share > 1) {
        const last = excursions.at(-1)
        if (last?.out === frame) {
          last.out++
          last.share = Math.max(last.share, share)
        } else excursions.push({ in: frame, out: frame + 1, share })
      }
      // a dark picture says nothing about bars
      if (t.bright > 1500) t.bars.forEach((n, i) => bars[i]!.push(n))
      frame++
    },
    result() {
      // a few frames with something in a bar do not make it a picture
      const usual = (list: number[]) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 20)] ?? 0
      const [top, bottom, left, right] = bars.map(usual) as [number, number, number, number]
      const real = (n: number) => (n >= 4 ? n : 0)
      const [t, b, l, r] = [real(top), real(bottom), real(left), real(right)]
      return {
        excursions,
        lowest: frame ? lowest : 0,
        highest: frame ? highest : 0,
        active:
          t + b + l + r > 0 && t + b < height && l + r < width
            ? { x: l, y: t, width: width - l - r, height: height - t - b }
            : null,
      }
    },
  }
}
