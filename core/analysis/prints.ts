import type { Frames } from '../time/rate'
import { columns, rows, type Trace } from './trace'

/** Cells of a print: 16 across, 9 down. */
const [across, down] = [16, 9]
export const printCells = across * down
const step = columns / across

/** What a cell counts at most in a difference: burnt-in text changes a few of them much, another picture all. */
const most = 24
/** Spread of the cells below which a picture is a flat field: it is like every other. */
const flatSpread = 2

/**
 * What tells the pictures of a reel apart, whatever their level, contrast and coding: for each frame its cells' luma as
 * steps of 1/32 of their spread from their mean, −127 … 127. A flat field has none.
 */
export class Prints {
  readonly values: Int8Array
  readonly flat: Uint8Array

  constructor(readonly frames: Frames) {
    this.values = new Int8Array(frames * printCells)
    this.flat = new Uint8Array(frames)
  }

  /** Takes the mean luma of 16 × 9 cells as those of a frame. */
  set(frame: Frames, cells: ArrayLike<number>): void {
    let [sum, square] = [0, 0]
    for (let i = 0; i < printCells; i++) {
      sum += cells[i]!
      square += cells[i]! ** 2
    }
    const mean = sum / printCells
    const spread = Math.sqrt(Math.max(0, square / printCells - mean * mean))
    this.flat[frame] = spread < flatSpread ? 1 : 0
    if (this.flat[frame]) return
    const at = frame * printCells
    for (let i = 0; i < printCells; i++)
      this.values[at + i] = Math.max(-127, Math.min(127, Math.round(((cells[i]! - mean) * 32) / spread)))
  }
}

/** The mean luma of the cells of a print, as 8-bit codes, of a trace. */
export function printOf({ luma }: Trace): Float64Array {
  const cells = new Float64Array(printCells)
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < columns; x++)
      cells[Math.floor(y / (rows / down)) * across + Math.floor(x / step)]! += luma[y * columns + x]!
  // sixteen samples are summed in each cell of a trace
  const share = 16 * step * (rows / down)
  return cells.map((v) => v / share)
}

/** Mean difference of two frames, cell against cell; `every` third of them tells nearly as much. */
export function printDifference(a: Prints, m: Frames, b: Prints, n: Frames, every: 1 | 3 = 1): number {
  if (a.flat[m] || b.flat[n]) return a.flat[m] === b.flat[n] ? 0 : most
  const [x, y] = [a.values, b.values]
  const [p, q] = [m * printCells, n * printCells]
  let sum = 0
  for (let i = 0; i < printCells; i += every) {
    const d = x[p + i]! - y[q + i]!
    sum += d > most || d < -most ? most : d < 0 ? -d : d
  }
  return (sum * every) / printCells
}

/** Pairs of cells by which frames are looked up: whether the first is brighter, 14 pairs for each of 6 keys. */
const [keys, bits] = [6, 14]
const pairs = (() => {
  let state = 12345
  const random = (n: number) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 2 ** 32) * n)
  }
  return Int16Array.from({ length: keys * bits * 2 }, () => random(printCells))
})()

/** The keys under which a frame is found: two that look alike share one of them nearly always. */
export function printKeys({ values }: Prints, frame: Frames): Int32Array {
  const at = frame * printCells
  return Int32Array.from({ length: keys }, (_, k) => {
    let key = k
    for (let b = 0; b < bits; b++) {
      const i = (k * bits + b) * 2
      key = key * 2 + (values[at + pairs[i]!]! > values[at + pairs[i + 1]!]! ? 1 : 0)
    }
    return key
  })
}
