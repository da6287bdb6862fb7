import { broughtAlike } from './difference'
import type { Picture, Plane } from './picture'

/** How like two pictures of one raster are. */
export interface Likeness {
  /** Mean squared differences of luma, Cb and Cr, as parts of the square of the largest code. */
  readonly errors: readonly [number, number, number]
  /** Structural similarity of luma, at most 1, which only two pictures that are the same have. */
  readonly ssim: number
}

/** Compares two pictures of one raster at the depth of the deeper one, and with the chroma of the finer one. */
export function likenessOf(a: Picture, b: Picture): Likeness {
  const [p, q] = broughtAlike(a, b)
  const peak = (1 << p.bitDepth) - 1
  const [y, u, v] = p.planes.map((plane, k) => meanSquare(plane, q.planes[k]!) / peak ** 2) as [number, number, number]
  return { errors: [y, u, v], ssim: y === 0 ? 1 : similarity(p.planes[0], q.planes[0], p.width, p.height, peak) }
}

/** The signal-to-noise ratio of a mean squared difference, dB; null where there is no difference at all. */
export function peakSignalToNoise(error: number): number | null {
  return error === 0 ? null : -10 * Math.log10(error)
}

function meanSquare(a: Plane, b: Plane): number {
  let sum = 0
  for (let i = 0; i < a.length; i++) {
    const d = a[i]! - b[i]!
    sum += d * d
  }
  return sum / a.length
}

/** Side of a block whose sums are taken once; a window is two by two of them. */
const side = 4
/** What is summed of a block: both pictures, their squares, and one times the other. */
const kinds = 5

/**
 * The mean structural similarity of two planes (Wang, Bovik, Sheikh, Simoncelli: Image quality assessment, IEEE
 * Transactions on Image Processing 13/4, 2004; K1 = 0.01, K2 = 0.03), over windows of 8 × 8 samples that all weigh
 * alike, one at every fourth sample. Up to three columns and lines at the far edges are in no window.
 */
function similarity(a: Plane, b: Plane, width: number, height: number, peak: number): number {
  const across = Math.floor(width / side)
  const down = Math.floor(height / side)
  const c1 = (0.01 * peak) ** 2
  const c2 = (0.03 * peak) ** 2
  const samples = (2 * side) ** 2
  let above = new Float64Array(across * kinds)
  let here = new Float64Array(across * kinds)
  let sum = 0
  for (let y = 0; y < down; y++) {
    blockSums(a, b, width, y * side, here)
    for (let x = 0; y > 0 && x + 1 < across; x++) {
      const at = x * kinds
      const of = (k: number) => above[at + k]! + above[at + kinds + k]! + here[at + k]! + here[at + kinds + k]!
      const [meanA, meanB] = [of(0) / samples, of(1) / samples]
      const varianceA = of(2) / samples - meanA * meanA
      const varianceB = of(3) / samples - meanB * meanB
      const covariance = of(4) / samples - meanA * meanB
      const top = (2 * meanA * meanB + c1) * (2 * covariance + c2)
      sum += top / ((meanA * meanA + meanB * meanB + c1) * (varianceA + varianceB + c2))
    }
    ;[above, here] = [here, above]
  }
  return sum / ((across - 1) * (down - 1))
}

/** Sums over each block of a row of blocks, `kinds` of them a block. */
function blockSums(a: Plane, b: Plane, width: number, top: number, out: Float64Array): void {
  for (let at = 0, left = 0; at < out.length; at += kinds, left += side) {
    let [sumA, sumB, squareA, squareB, both] = [0, 0, 0, 0, 0]
    for (let y = top; y < top + side; y++)
      for (let i = y * width + left, end = i + side; i < end; i++) {
        const [p, q] = [a[i]!, b[i]!]
        sumA += p
        sumB += q
        squareA += p * p
        squareB += q * q
        both += p * q
      }
    out[at] = sumA
    out[at + 1] = sumB
    out[at + 2] = squareA
    out[at + 3] = squareB
    out[at + 4] = both
  }
}
