import { kernel } from './kernel'
import type { Samples2d } from './scale'

// Depth, chroma lines and differences of planes: each plainly, and by the kernel where there is one; both the same.

/** 8 bits to 10 is a shift (BT.709 7.2: codes ×4). */
export function deepenPlain(plane: Uint8Array): Uint16Array {
  return Uint16Array.from(plane, (v) => v << 2)
}
export function deepen(plane: Uint8Array): Uint16Array {
  const fast = kernel()
  if (!fast) return deepenPlain(plane)
  const out = new Uint16Array(plane.length)
  const [from, to] = fast.hold([plane], out.byteLength)
  fast.run.deepen(from!, plane.length, to!)
  fast.take(to!, out)
  return out
}

/** 10 bits to 8, rounded. */
export function flattenPlain(plane: Uint16Array): Uint8Array {
  return Uint8Array.from(plane, (v) => Math.min(255, (v + 2) >> 2))
}
export function flatten(plane: Uint16Array): Uint8Array {
  const fast = kernel()
  if (!fast) return flattenPlain(plane)
  const out = new Uint8Array(plane.length)
  const [from, to] = fast.hold([plane], out.byteLength)
  fast.run.flatten(from!, plane.length, to!)
  fast.take(to!, out)
  return out
}

/** What is added before the last two bits go, by the evenness of line and column: on average what rounds. */
const dithers = [
  [0, 2],
  [3, 1],
] as const

/**
 * 10 bits to 8 with an ordered dither: of four samples in a square as many are one higher as the bits that go amount
 * to, so that a slow ramp makes no steps. Codes that 8 bits have stay as they are.
 */
export function ditherPlain(plane: Uint16Array, width: number): Uint8Array {
  const out = new Uint8Array(plane.length)
  for (let at = 0; at < plane.length; at += width)
    for (let x = 0; x < width; x++)
      out[at + x] = Math.min(255, (plane[at + x]! + dithers[(at / width) & 1]![x & 1]!) >> 2)
  return out
}
export function dither(plane: Uint16Array, width: number): Uint8Array {
  const fast = kernel()
  if (!fast) return ditherPlain(plane, width)
  const out = new Uint8Array(plane.length)
  const [from, to] = fast.hold([plane], out.byteLength)
  const [even, odd] = dithers.map(([a, b]) => a | (b << 16))
  fast.run.dither(from!, width, plane.length / width, even!, odd!, to!)
  fast.take(to!, out)
  return out
}

const alike = <T extends Samples2d>(plane: T, n: number): T =>
  (plane instanceof Uint16Array ? new Uint16Array(n) : new Uint8Array(n)) as T

/**
 * Chroma lines of 4:2:0 as those of a picture of `height` lines: each is sited midway between two luma lines, so new
 * ones weigh 3:1 (H.264 6.2).
 */
export function upChromaPlain<T extends Samples2d>(plane: T, width: number, height: number): T {
  const lines = plane.length / width
  const out = alike(plane, width * height)
  for (let y = 0; y < height; y++) {
    const near = (y >> 1) * width
    const far = Math.max(0, Math.min(lines - 1, (y >> 1) + (y & 1 ? 1 : -1))) * width
    for (let x = 0; x < width; x++) out[y * width + x] = (3 * plane[near + x]! + plane[far + x]! + 2) >> 2
  }
  return out
}
export function upChroma<T extends Samples2d>(plane: T, width: number, height: number): T {
  const fast = kernel()
  if (!fast) return upChromaPlain(plane, width, height)
  const out = alike(plane, width * height)
  const [from, to] = fast.hold([plane], out.byteLength)
  fast.run.upChroma(plane.BYTES_PER_ELEMENT, from!, width, plane.length / width, height, to!)
  fast.take(to!, out)
  return out
}

/** Chroma lines of 4:2:2 as those of 4:2:0: pairs are averaged. */
export function downChromaPlain<T extends Samples2d>(plane: T, width: number): T {
  const lines = plane.length / width
  const height = (lines + 1) >> 1
  const out = alike(plane, width * height)
  for (let y = 0; y < height; y++) {
    const [a, b] = [2 * y * width, Math.min(2 * y + 1, lines - 1) * width]
    for (let x = 0; x < width; x++) out[y * width + x] = (plane[a + x]! + plane[b + x]! + 1) >> 1
  }
  return out
}
export function downChroma<T extends Samples2d>(plane: T, width: number): T {
  const fast = kernel()
  if (!fast) return downChromaPlain(plane, width)
  const lines = plane.length / width
  const height = (lines + 1) >> 1
  const out = alike(plane, width * height)
  const [from, to] = fast.hold([plane], out.byteLength)
  fast.run.downChroma(plane.BYTES_PER_ELEMENT, from!, width, lines, height, to!)
  fast.take(to!, out)
  return out
}

const bitsOver8 = (plane: Samples2d) => (plane instanceof Uint16Array ? 2 : 0)

/** Sum of absolute differences of two planes of one size, in 8-bit codes; what 10 bits have over that is cut off. */
export function differencePlain(a: Samples2d, b: Samples2d): number {
  const [sa, sb] = [bitsOver8(a), bitsOver8(b)]
  let sum = 0
  for (let i = 0; i < a.length; i++) sum += Math.abs((a[i]! >> sa) - (b[i]! >> sb))
  return sum
}
export function difference(a: Samples2d, b: Samples2d): number {
  const fast = kernel()
  if (!fast) return differencePlain(a, b)
  const [from, other] = fast.hold([a, b])
  // samples are taken by eights: those behind the last are nothing
  const memory = fast.bytes()
  memory.fill(0, from! + a.byteLength, from! + a.byteLength + 16)
  memory.fill(0, other! + b.byteLength, other! + b.byteLength + 16)
  const count = Math.ceil(a.length / 8) * 8
  return Number(fast.run.difference(from!, a.BYTES_PER_ELEMENT, other!, b.BYTES_PER_ELEMENT, count))
}
