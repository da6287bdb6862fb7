import type { Samples } from '../time/rate'

/** A number spread evenly over 32 bits, from any number (the finaliser of MurmurHash3, public domain). */
function scattered(n: number): number {
  let h = n | 0
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b)
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35)
  return (h ^ (h >>> 16)) >>> 0
}

/**
 * A channel with noise of triangular density, two steps of the output wide (TPDF), so that rounding to fewer bits
 * leaves noise instead of distortion, and what is smaller than a step is still heard. The noise depends on the place
 * in the timeline alone: the same file comes out of every run and every way to share the work.
 *
 * @param bitDepth of the output
 * @param from the first sample's number
 * @param salt what makes channels differ
 */
export function dithered(channel: Float32Array, bitDepth: number, from: Samples, salt: number): Float32Array {
  const step = 2 ** (1 - bitDepth)
  return channel.map((v, i) => {
    const seed = Math.imul(from + i, 0x9e3779b1) + Math.imul(salt + 1, 0x61c88647)
    const noise = (scattered(seed) + scattered(seed ^ 0x5bd1e995)) / 2 ** 32 - 1
    return v + noise * step
  })
}
