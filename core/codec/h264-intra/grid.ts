import { scans, type Scan } from './parameters'
import { hasAbove, hasCorner, hasLeft, hasRight } from './predict'

/** The samples of a frame, whole macroblocks of it: luma, Cb, Cr. */
export interface Surface {
  readonly planes: readonly [Uint16Array, Uint16Array, Uint16Array]
  /** Samples of a line. */
  readonly strides: readonly [number, number, number]
}

/** A surface for a frame of so many macroblocks; chroma has half the lines in 4:2:0 (1), all in 4:2:2 (2). */
export function surfaceOf(width: number, height: number, chroma: number): Surface {
  const y = width * height * 256
  const c = width * 8 * height * (chroma === 1 ? 8 : 16)
  return {
    planes: [new Uint16Array(y), new Uint16Array(c), new Uint16Array(c)],
    strides: [width * 16, width * 8, width * 8],
  }
}

/** How a macroblock is predicted: by 4×4 blocks, by 8×8 blocks, as a whole, or not at all. */
export const kinds = { four: 0, eight: 1, whole: 2, raw: 3 } as const

/** Places of luma blocks, in the order in which they are coded, as 4 × line + column (6.4.3). */
export const blockOrder = Uint8Array.of(0, 1, 4, 5, 2, 3, 6, 7, 8, 9, 12, 13, 10, 11, 14, 15)

/**
 * The macroblocks of one coded picture, a frame or a field of it, and what is known of each. Coefficients are counted
 * for 32 blocks of each: sixteen of luma, line by line, then eight of Cb and eight of Cr.
 */
export class Grid {
  readonly count: number
  /** Chroma lines of a macroblock: 8 or 16. */
  readonly chromaLines: number
  readonly kind: Uint8Array
  readonly counts: Uint8Array
  readonly modes: Int8Array
  readonly qps: Int8Array
  /** The slice each belongs to, from 1; 0 is not coded yet. */
  readonly slices: Uint16Array
  private readonly strides: readonly number[]

  /** `field` is 0 for a frame, 1 for the top field, 2 for the bottom one. */
  constructor(
    readonly surface: Surface,
    readonly width: number,
    readonly height: number,
    chroma: number,
    private readonly field: number,
  ) {
    this.count = width * height
    this.strides = surface.strides.map((s) => (field === 0 ? s : s * 2))
    this.chromaLines = chroma === 1 ? 8 : 16
    this.kind = new Uint8Array(this.count)
    this.counts = new Uint8Array(this.count * 32)
    this.modes = new Int8Array(this.count * 16)
    this.qps = new Int8Array(this.count)
    this.slices = new Uint16Array(this.count)
  }

  /** Whether a macroblock is of one field: its lines are every other one of the frame. */
  ofField(_mb: number): boolean {
    return this.field !== 0
  }

  /** The order in which a macroblock's levels are coded. */
  scan(mb: number): Scan {
    return this.ofField(mb) ? scans.field : scans.frame
  }

  /** Where a macroblock's first sample stands in a plane. */
  at(mb: number, plane: number): number {
    const x = mb % this.width
    const y = (mb - x) / this.width
    const lines = plane === 0 ? 16 : this.chromaLines
    const first = this.field === 2 ? this.surface.strides[plane]! : 0
    return first + y * lines * this.strides[plane]! + x * (plane === 0 ? 16 : 8)
  }

  /** Samples from one line of a macroblock to its next. */
  stride(_mb: number, plane: number): number {
    return this.strides[plane]!
  }

  /** Which neighbours a macroblock has in its picture. */
  sides(mb: number): number {
    return sidesOf(mb, this.width)
  }

  /** Which neighbours of a macroblock may be used: those of its slice. */
  there(mb: number): number {
    return ofSlice(this.sides(mb), mb, this.width, (other) => this.slices[other]!)
  }

  /** The macroblock at the left of a line, and the line of that one, as macroblock × `lines` + line. */
  leftOf(mb: number, line: number, lines: number): number {
    return (mb - 1) * lines + line
  }

  /** The macroblock at the left of a macroblock's first line, and the one above. */
  left(mb: number): number {
    return this.leftOf(mb, 0, 16) >> 4
  }

  above(mb: number): number {
    return mb - this.width
  }

  /** Levels of the block at the left of a block of luma; `none` where there is none. */
  lumaLeft(mb: number, there: number, block: number, none: number): number {
    if (block & 3) return this.counts[mb * 32 + block - 1]!
    if (!(there & hasLeft)) return none
    const line = this.leftOf(mb, (block >> 2) * 4, 16)
    return this.counts[(line >> 4) * 32 + ((line & 12) | 3)]!
  }

  /** Levels of the block above a block of luma. */
  lumaAbove(mb: number, there: number, block: number, none: number): number {
    if (block > 3) return this.counts[mb * 32 + block - 4]!
    return there & hasAbove ? this.counts[this.above(mb) * 32 + block + 12]! : none
  }

  /** The same of blocks of chroma: 16 … 23 of Cb, 24 … 31 of Cr. */
  chromaLeft(mb: number, there: number, block: number, none: number): number {
    if (block & 1) return this.counts[mb * 32 + block - 1]!
    if (!(there & hasLeft)) return none
    const { chromaLines } = this
    const line = this.leftOf(mb, (block & 6) * 2, chromaLines)
    const own = line % chromaLines
    return this.counts[((line - own) / chromaLines) * 32 + (block & 24) + ((own >> 1) | 1)]!
  }

  chromaAbove(mb: number, there: number, block: number, none: number): number {
    if ((block & 7) > 1) return this.counts[mb * 32 + block - 2]!
    return there & hasAbove ? this.counts[this.above(mb) * 32 + block + (this.chromaLines >> 1) - 2]! : none
  }

  /** What the neighbours of a block hold, for the choice of a table (nC, 9.2.1). */
  lumaContext(mb: number, there: number, block: number): number {
    return context(this.lumaLeft(mb, there, block, -1), this.lumaAbove(mb, there, block, -1))
  }

  chromaContext(mb: number, there: number, block: number): number {
    return context(this.chromaLeft(mb, there, block, -1), this.chromaAbove(mb, there, block, -1))
  }

  /** The mode a 4×4 block's is told against (8.3.1.1); of an 8×8 block, that of its first 4×4 block. */
  likelyMode(mb: number, there: number, block: number): number {
    const own = mb * 16 + block
    const { modes } = this
    const line = this.leftOf(mb, (block >> 2) * 4, 16)
    const left = block & 3 ? modes[own - 1]! : there & hasLeft ? modes[(line & ~3) | 3]! : -1
    const above = block > 3 ? modes[own - 4]! : there & hasAbove ? modes[this.above(mb) * 16 + 12 + block]! : -1
    return left < 0 || above < 0 ? 2 : Math.min(left, above)
  }

  setMode(mb: number, kind: number, block: number, mode: number): void {
    const at = mb * 16 + block
    this.modes[at] = mode
    if (kind === kinds.eight) this.modes[at + 1] = this.modes[at + 4] = this.modes[at + 5] = mode
  }
}

/** Neighbours of one of a grid's places, lines of `width`. */
export function sidesOf(place: number, width: number): number {
  const x = place % width
  const [left, right] = [x > 0, x < width - 1]
  if (place < width) return left ? hasLeft : 0
  return hasAbove | (left ? hasLeft | hasCorner : 0) | (right ? hasRight : 0)
}

/** Those of the neighbours of a place that are of its slice. */
export function ofSlice(sides: number, place: number, width: number, sliceOf: (place: number) => number): number {
  const slice = sliceOf(place)
  const are = (side: number, other: number) => (sides & side && sliceOf(other) === slice ? side : 0)
  const above = place - width
  return are(hasLeft, place - 1) | are(hasAbove, above) | are(hasCorner, above - 1) | are(hasRight, above + 1)
}

function context(left: number, above: number): number {
  if (left < 0) return above < 0 ? 0 : above
  return above < 0 ? left : (left + above + 1) >> 1
}

/** Which neighbours a 4×4 block has, at a place of its macroblock (6.4.11.4). */
export function there4(block: number, mb: number): number {
  const [x, y] = [block & 3, block >> 2]
  const right = y === 0 ? (x < 3 ? mb & hasAbove : mb & hasRight) : x !== 3 && !(x === 1 && y % 2 === 1)
  return sides(x, y, mb) | (right ? hasRight : 0)
}

/** The same for an 8×8 block, 0 … 3. */
export function there8(block: number, mb: number): number {
  const [x, y] = [block & 1, block >> 1]
  const right = y === 0 ? (x === 0 ? mb & hasAbove : mb & hasRight) : x === 0
  return sides(x, y, mb) | (right ? hasRight : 0)
}

function sides(x: number, y: number, mb: number): number {
  const left = x > 0 || mb & hasLeft
  const above = y > 0 || mb & hasAbove
  const corner = x > 0 ? above : y > 0 ? left : mb & hasCorner
  return (left ? hasLeft : 0) | (above ? hasAbove : 0) | (corner ? hasCorner : 0)
}
