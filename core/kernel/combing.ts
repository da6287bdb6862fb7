import { kernel, type Kernel } from './kernel'
import type { Samples2d } from './scale'

/** What is kept of a picture's luma to hold the next against: sixteen samples of every so many across. */
export interface Columns {
  /** 8 bits in bytes, or 10 in 16-bit words. */
  readonly samples: Samples2d
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

const taken = 16
/** Enough of them in small pictures, and not too many in large ones. */
const stepOf = (width: number) => (width < 1280 ? 64 : 128)

/** Takes from a plane of luma. */
export function columnsOf(plane: Samples2d, width: number, height: number): Columns {
  const step = stepOf(width)
  const count = Math.floor(width / step)
  const length = count * taken * height
  const samples = plane instanceof Uint16Array ? new Uint16Array(length) : new Uint8Array(length)
  const each = plane.BYTES_PER_ELEMENT
  if ((width * each) % 4 === 0 && plane.byteOffset % 4 === 0) {
    const words = new Int32Array(plane.buffer, plane.byteOffset, (plane.length * each) >> 2)
    const part = (taken * each) >> 2
    copyWords(words, (width * each) >> 2, (step * each) >> 2, part, new Int32Array(samples.buffer), count * part)
  } else {
    for (let o = 0, y = 0; y < height; y++)
      for (let c = 0; c < count; c++, o += taken) {
        const first = y * width + c * step + (step - taken) / 2
        samples.set(plane.subarray(first, first + taken), o)
      }
  }
  return { samples, width: count * taken, height }
}

/** The same sixteen bytes at once, where lines begin so. */
function copyWords(from: Int32Array, line: number, step: number, part: number, to: Int32Array, lineOut: number): void {
  const { length } = to
  let o = 0
  for (let begin = (step - part) >> 1; o < length; begin += line) {
    const end = o + lineOut
    for (let first = begin; o < end; first += step) {
      for (let x = first; x < first + part; x += 4) {
        to[o] = from[x]!
        to[o + 1] = from[x + 1]!
        to[o + 2] = from[x + 2]!
        to[o + 3] = from[x + 3]!
        o += 4
      }
    }
  }
}

/** Counts over the lines that have one above and one below. */
export function combedPlain(a: Columns, b: Columns): Combed {
  const { width, height } = a
  const codes = ({ samples }: Columns) => (samples instanceof Uint16Array ? samples.map((v) => v >> 2) : samples)
  const [own, before] = [codes(a), codes(b)]
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
  fast.run.combing(samples.BYTES_PER_ELEMENT, a!, b!, width, height, mostAlike, out!)
  const found = new Int32Array(3)
  fast.take(out!, found)
  const [own, topAfter, bottomAfter] = found as unknown as [number, number, number]
  return { samples: width * Math.max(0, height - 2), own, topAfter, bottomAfter }
}
