import { kernel, type Kernel } from './kernel'
import type { Samples2d } from './scale'

/** What is kept of a picture's luma to hold the next against: sixteen samples of every 64 across, as 8-bit codes. */
export interface Columns {
  readonly samples: Uint8Array
  readonly width: number
  readonly height: number
}

/** Samples that stand out from those above and below them, by more than `mostAlike`. */
export interface Combed {
  /** Of how many. */
  readonly samples: number
  /** Where each line is the picture's own. */
  readonly own: number
  /** Where its top field (lines 0, 2, …) stands between the bottom one of the picture before, and the other way. */
  readonly topAfter: number
  readonly bottomAfter: number
}

/** 8-bit codes by which neighbours differ in pictures that are not combed. */
const mostAlike = 10

const [every, taken] = [64, 16]

const countOf = (width: number) => Math.floor(width / every)

/** Takes from a plane of luma of 8 bits in bytes, or 10 in 16-bit words. */
export function columnsPlain(plane: Samples2d, width: number, height: number): Columns {
  const count = countOf(width)
  const out = new Uint8Array(count * taken * height)
  const shift = plane instanceof Uint16Array ? 2 : 0
  let o = 0
  for (let y = 0; y < height; y++) {
    for (let c = 0; c < count; c++) {
      const from = y * width + c * every + (every - taken) / 2
      for (let x = from; x < from + taken; x++) out[o++] = plane[x]! >> shift
    }
  }
  return { samples: out, width: count * taken, height }
}

/** The same by the kernel where there is one. */
export function columnsOf(plane: Samples2d, width: number, height: number): Columns {
  const fast = kernel()
  if (!fast) return columnsPlain(plane, width, height)
  const count = countOf(width)
  const samples = new Uint8Array(count * taken * height)
  const [from, to] = fast.hold([plane], samples.byteLength)
  fast.run.columns(plane.BYTES_PER_ELEMENT, from!, width, height, to!)
  fast.take(to!, samples)
  return { samples, width: count * taken, height }
}

/** Counts over the lines that have one above and one below. */
export function combedPlain({ samples: own, width, height }: Columns, { samples: before }: Columns): Combed {
  const counts = { samples: width * Math.max(0, height - 2), own: 0, topAfter: 0, bottomAfter: 0 }
  const stands = (v: number, a: number, b: number) =>
    (v - a > mostAlike && v - b > mostAlike) || (a - v > mostAlike && b - v > mostAlike)
  for (let y = 1; y < height - 1; y++) {
    for (let i = y * width; i < (y + 1) * width; i++) {
      const [above, below] = [i - width, i + width]
      if (stands(own[i]!, own[above]!, own[below]!)) counts.own++
      const among = stands(own[i]!, before[above]!, before[below]!)
      const around = stands(before[i]!, own[above]!, own[below]!)
      if (y % 2 === 0 ? among : around) counts.topAfter++
      if (y % 2 === 0 ? around : among) counts.bottomAfter++
    }
  }
  return counts
}

/** The same by the kernel where there is one; both are of one size. */
export function combed(own: Columns, before: Columns): Combed {
  const fast = kernel()
  return fast ? combedFast(own, before, fast) : combedPlain(own, before)
}

function combedFast({ samples, width, height }: Columns, before: Columns, fast: Kernel): Combed {
  const [a, b, out] = fast.hold([samples, before.samples], 12)
  fast.run.combing(a!, b!, width, height, mostAlike, out!)
  const found = new Int32Array(3)
  fast.take(out!, found)
  const [own, topAfter, bottomAfter] = found as unknown as [number, number, number]
  return { samples: width * Math.max(0, height - 2), own, topAfter, bottomAfter }
}
