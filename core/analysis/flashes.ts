import { lumaWeightsOf, type ColouredPictures } from '../media/colour'
import { joined, type FrameRange } from '../time/range'
import type { Frames, Rate } from '../time/rate'
import type { Meter } from './meter'
import { colourColumns, colourRows, columns, rows, type Trace } from './trace'

/** What flashes are measured by. */
export interface FlashOptions extends ColouredPictures {
  readonly rate: Rate
}

const [across, down] = [columns / colourColumns, rows / colourRows]
const colourCells = colourColumns * colourRows

/** Steps of a table of luminance. */
const steps = 1023

/**
 * Light of a component in cd/m²: of a display of 200 cd/m² (ITU-R BT.1886), of PQ (BT.2100 table 4), and of HLG for one
 * of 1000 (table 5).
 */
function lightOf(transfer: number): (v: number) => number {
  if (transfer === 16)
    return (v) => {
      const p = v ** (32 / 2523)
      return 10_000 * (Math.max(p - 0.8359375, 0) / (18.8515625 - 18.6875 * p)) ** (8192 / 1305)
    }
  if (transfer === 18)
    return (v) => 1000 * (v <= 0.5 ? (v * v) / 3 : (Math.exp((v - 0.55991073) / 0.17883277) + 0.28466892) / 12)
  return (v) => 200 * v ** 2.4
}

/** What light is held against where a red counts: that of white on the display. */
const whiteOf = (transfer: number) => (transfer === 16 || transfer === 18 ? 1000 : 200)

/** Which way each cell of a picture goes: a change counts that is of 20 at least from the last turn on. */
class Turns {
  private readonly way: Int8Array
  /** Where it was last, at most and at least; of one that has a way, its furthest. */
  private readonly low: Float32Array
  private readonly high: Float32Array
  private begun = false

  constructor(
    cells: number,
    /** A change counts where the lower state is under this. */
    private readonly under: number,
  ) {
    this.way = new Int8Array(cells)
    this.low = new Float32Array(cells)
    this.high = new Float32Array(cells)
  }

  /** Cells that turn up, and down, with the next picture. */
  next(values: Float32Array): { readonly up: number; readonly down: number } {
    const { way, low, high, under } = this
    if (!this.begun) {
      this.begun = true
      low.set(values)
      high.set(values)
      return { up: 0, down: 0 }
    }
    let [up, down] = [0, 0]
    for (let i = 0; i < values.length; i++) {
      const v = values[i]!
      if (way[i]! <= 0 && v - low[i]! >= 20 && low[i]! < under) {
        way[i] = 1
        high[i] = v
        up++
      } else if (way[i]! >= 0 && high[i]! - v >= 20 && v < under) {
        way[i] = -1
        low[i] = v
        down++
      } else {
        if (v > high[i]!) high[i] = v
        if (v < low[i]!) low[i] = v
      }
    }
    return { up, down }
  }
}

interface Transition {
  readonly frame: Frames
  readonly up: boolean
}

/**
 * Stretches of flashes (ITU-R BT.1702): more than three opposing pairs of changes in a second, over more than a quarter
 * of the screen, of 20 cd/m² or more with the darker state under 160; and, whatever their luminance, of changes to and
 * from a saturated red (as W3C's WCAG 2.2 has it: R ≥ 0.8 of R + G + B, and 320 × (R − G − B) changes by 20). Frames
 * count from the first one fed. Luminance follows from luma by small cells, and colour by larger ones: a warning
 * instrument, not a certified one.
 */
export function flashMeter(options: FlashOptions): Meter<Trace, readonly FrameRange[]> {
  const { rate, colour } = options
  const transfer = colour?.transfer ?? 2
  // what HLG gives is of the scene: its display lifts it by a power of 1.2
  const scene = transfer === 18
  const [kr, kb] = lumaWeightsOf(options)
  const kg = 1 - kr - kb
  const lit = lightOf(transfer)
  const table = Float32Array.from({ length: steps + 1 }, (_, k) => lit(k / steps))
  const of = (v: number) => table[v <= 0 ? 0 : v >= 1 ? steps : (v * steps + 0.5) | 0]!
  const white = whiteOf(transfer)
  const cells = columns * rows
  const [luminance, red] = [new Float32Array(cells), new Float32Array(cells)]
  const kinds = [
    { values: luminance, turns: new Turns(cells, 160), transitions: [] as Transition[] },
    // a red counts whatever was there before
    { values: red, turns: new Turns(cells, Infinity), transitions: [] as Transition[] },
  ]
  let frame = 0

  function see(t: Trace): void {
    for (let at = 0; at < colourCells; at++) {
      // what its colour adds to luma for each component is the same for all its smaller cells
      const u = (t.colour[at]! - 128) / 224
      const v = (t.colour[colourCells + at]! - 128) / 224
      const [r, b] = [2 * (1 - kr) * v, 2 * (1 - kb) * u]
      const g = -(kr * r + kb * b) / kg
      const first = Math.floor(at / colourColumns) * down * columns + (at % colourColumns) * across
      for (let y = 0; y < down; y++)
        for (let x = 0; x < across; x++) {
          const i = first + y * columns + x
          const l = (t.luma[i]! / 16 - 16) / 219
          const R = of(l + r)
          const G = of(l + g)
          const B = of(l + b)
          const light = kr * R + kg * G + kb * B
          luminance[i] = scene ? 1000 * (light / 1000) ** 1.2 : light
          red[i] = R >= 0.8 * (R + G + B) && R > G + B ? (320 * (R - G - B)) / white : 0
        }
    }
  }

  return {
    feed(t) {
      see(t)
      for (const { values, turns, transitions } of kinds) {
        const { up, down } = turns.next(values)
        if (Math.max(up, down) > cells / 4) transitions.push({ frame, up: up > down })
      }
      frame++
    },
    result: () => joined(kinds.flatMap((k) => flashRuns(k.transitions, Math.round(rate.num / rate.den)))),
  }
}

/** Stretches in which more than three pairs of opposing transitions fall within one second. */
function flashRuns(transitions: readonly Transition[], second: Frames): FrameRange[] {
  const alternating = transitions.filter((t, i) => i === 0 || t.up !== transitions[i - 1]!.up)
  return alternating.slice(0, -7).flatMap((t, i) => {
    const to = alternating[i + 7]!.frame + 1
    return to - t.frame > second ? [] : [{ in: t.frame, out: to }]
  })
}
