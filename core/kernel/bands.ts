import { kernel } from './kernel'
import type { Samples2d } from './scale'

/** Bands of a plane's lines: the first of each, and the one behind its last, one after the other. */
export type Bands = Int32Array

/** Sums of each column of a plane over bands of its lines: `width` of them a band. */
export function bandSumsPlain(plane: Samples2d, width: number, bands: Bands): Uint32Array {
  const count = bands.length / 2
  const sums = new Uint32Array(count * width)
  for (let band = 0; band < count; band++) {
    const to = band * width
    for (let y = bands[2 * band]!; y < bands[2 * band + 1]!; y++) {
      const from = y * width
      for (let x = 0; x < width; x++) sums[to + x]! += plane[from + x]!
    }
  }
  return sums
}

/** The same by the kernel where there is one. */
export function bandSums(plane: Samples2d, width: number, bands: Bands): Uint32Array {
  const fast = kernel()
  if (!fast) return bandSumsPlain(plane, width, bands)
  const sums = new Uint32Array((bands.length / 2) * width)
  const [from, edges, out] = fast.hold([plane, bands], sums.byteLength)
  fast.run.bandSums(plane.BYTES_PER_ELEMENT, from!, width, edges!, bands.length / 2, out!)
  fast.take(out!, sums)
  return sums
}
