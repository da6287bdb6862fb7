import { bandSums } from '../kernel/bands'
import { chromaSize, type Picture, type Plane } from './picture'

/** Cells of luma, and of Cb and Cr each, across and down. */
const luma = { across: 64, down: 36 }
const chroma = { across: 16, down: 9 }
const cells = { luma: luma.across * luma.down, chroma: chroma.across * chroma.down }

/**
 * A picture seen small, to tell whether another one is the same: means of all samples of each cell, as 8-bit codes, of
 * luma line by line, then of Cb, then of Cr. Grain that a codec leaves out weighs little in it.
 */
export type Look = Uint8Array

/** Bytes of a look. */
export const lookSize = cells.luma + 2 * cells.chroma

/**
 * The first sample of equal parts of a line or column, and the one behind its last, one after the other; parts of less
 * than a sample have one.
 */
function edgesOf(samples: number, parts: number): Int32Array {
  const place = (i: number) => Math.floor((i * samples) / parts)
  return Int32Array.from({ length: 2 * parts }, (_, k) =>
    k % 2 === 0 ? place(k >> 1) : Math.max(place(k >> 1) + 1, place((k >> 1) + 1)),
  )
}

/** Writes the means of the cells of a plane. */
function means(plane: Plane, width: number, height: number, grid: typeof luma, unit: number, out: Uint8Array): void {
  const columns = edgesOf(width, grid.across)
  const rows = edgesOf(height, grid.down)
  const sums = bandSums(plane, width, rows)
  for (let row = 0; row < grid.down; row++) {
    const lines = rows[2 * row + 1]! - rows[2 * row]!
    for (let i = 0; i < grid.across; i++) {
      const [left, right] = [columns[2 * i]!, columns[2 * i + 1]!]
      let sum = 0
      for (let x = left; x < right; x++) sum += sums[row * width + x]!
      out[row * grid.across + i] = Math.round(sum / ((right - left) * lines * unit))
    }
  }
}

/** Looks at a picture of any size and depth. */
export function lookOf(p: Picture): Look {
  const look = new Uint8Array(lookSize)
  const unit = 1 << (p.bitDepth - 8)
  const { width, height } = chromaSize(p)
  const [Y, U, V] = p.planes
  means(Y, p.width, p.height, luma, unit, look)
  means(U, width, height, chroma, unit, look.subarray(cells.luma))
  means(V, width, height, chroma, unit, look.subarray(cells.luma + cells.chroma))
  return look
}

/** How far a look is from another, in 8-bit steps. */
export interface LookDifference {
  /** The mean over all cells of luma, or of those of Cb and Cr if that is more. */
  readonly mean: number
  /** Of the cell that differs most. */
  readonly largest: number
}

export function lookDifference(a: Look, b: Look): LookDifference {
  let largest = 0
  const mean = (from: number, to: number) => {
    let sum = 0
    for (let i = from; i < to; i++) {
      const d = Math.abs(a[i]! - b[i]!)
      sum += d
      if (d > largest) largest = d
    }
    return sum / (to - from)
  }
  const [ofLuma, ofColour] = [mean(0, cells.luma), mean(cells.luma, lookSize)]
  return { mean: Math.max(ofLuma, ofColour), largest }
}
