import { concatBytes } from '../../bytes'
import { contextsAt, lesserNext, lesserRange, type Bins } from './cabac'
import { kinds, type Grid } from './grid'
import { hasAbove, hasLeft } from './predict'
import { dcOrder } from './rebuild'
import type { MacroblockReader } from './syntax'

/** Kinds of blocks of levels (ctxBlockCat, table 9-42). */
const blocks = { lumaDc: 0, lumaAc: 1, luma4: 2, chromaDc: 3, chromaAc: 4, luma8: 5 } as const

/** Where the contexts of each kind of block begin (tables 9-34 and 9-40): of frames, of fields. */
const codedFrom = [85, 89, 93, 97, 101]
const usedFrom = [
  [105, 120, 134, 149, 152, 402],
  [277, 292, 306, 321, 324, 436],
]
const lastFrom = [
  [166, 181, 195, 210, 213, 417],
  [338, 353, 367, 382, 385, 451],
]
const levelFrom = [227, 237, 247, 257, 266, 426]

/** Contexts of places in 8×8 blocks (table 9-43): whether a level is there (frames, fields), and whether the last. */
const used8 = [
  Uint8Array.of(
    ...[0, 1, 2, 3, 4, 5, 5, 4, 4, 3, 3, 4, 4, 4, 5, 5, 4, 4, 4, 4, 3, 3, 6, 7, 7, 7, 8, 9, 10, 9, 8, 7],
    ...[7, 6, 11, 12, 13, 11, 6, 7, 8, 9, 14, 10, 9, 8, 6, 11, 12, 13, 11, 6, 9, 14, 10, 9, 11, 12, 13, 11, 14, 10, 12],
  ),
  Uint8Array.of(
    ...[0, 1, 1, 2, 2, 3, 3, 4, 5, 6, 7, 7, 7, 8, 4, 5, 6, 9, 10, 10, 8, 11, 12, 11, 9, 9, 10, 10, 8, 11, 12, 11],
    ...[
      9, 9, 10, 10, 8, 11, 12, 11, 9, 9, 10, 10, 8, 13, 13, 9, 9, 10, 10, 8, 13, 13, 9, 9, 10, 10, 14, 14, 14, 14, 14,
    ],
  ),
]
const last8 = Uint8Array.of(
  ...[0, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 2, 2, 2, 2, 2, 2, 2, 2, 2, 2, 2, 2, 2, 2, 2, 2],
  ...[3, 3, 3, 3, 3, 3, 3, 3, 4, 4, 4, 4, 4, 4, 4, 4, 5, 5, 5, 5, 6, 6, 6, 6, 7, 7, 7, 7, 8, 8, 8],
)

/** What the kernel looks up in a slice, in the order of kernel/assembly/intra/cabac.ts. */
export function cabacTables(qp: number): Uint8Array {
  return concatBytes([contextsAt(qp), lesserRange, lesserNext, ...used8, last8])
}

/** What is added to a context where the block at the left has levels, or the one above. */
const codedOf = (left: number, above: number) => (left ? 1 : 0) + (above ? 2 : 0)

/** Reads macroblocks of I slices by arithmetic coding (CABAC, ITU-T H.264 9.3). */
export class CabacReader implements MacroblockReader {
  /** Of each macroblock: how chroma is predicted, what is coded, and which DCs have levels (luma, Cb, Cr). */
  private readonly chromaModes: Uint8Array
  private readonly patterns: Uint8Array
  private readonly dcs: Uint8Array
  private readonly places = new Uint8Array(64)
  /** Whether the macroblock before changed the QP. */
  private changed = false

  constructor(
    private readonly grid: Grid,
    private readonly d: Bins,
  ) {
    this.chromaModes = new Uint8Array(grid.count)
    this.patterns = new Uint8Array(grid.count)
    this.dcs = new Uint8Array(grid.count)
  }

  /** A context of three: by what holds of the macroblocks at the left and above. */
  private beside(mb: number, there: number, of: (other: number) => boolean): number {
    const left = there & hasLeft && of(this.grid.left(mb)) ? 1 : 0
    const above = there & hasAbove && of(this.grid.above(mb)) ? 1 : 0
    return left + above
  }

  pair(fieldsBeside: number): boolean {
    return this.d.bin(70 + fieldsBeside) === 1
  }

  type(mb: number, there: number): number {
    const { d, grid } = this
    const whole = (other: number) => grid.kind[other] === kinds.whole || grid.kind[other] === kinds.raw
    this.chromaModes[mb] = this.patterns[mb] = this.dcs[mb] = 0
    if (d.bin(3 + this.beside(mb, there, whole)) === 0) return 0
    if (d.terminate()) return 25
    const luma = d.bin(6)
    const chroma = d.bin(7) ? 1 + d.bin(8) : 0
    this.patterns[mb] = (luma ? 15 : 0) | (chroma << 4)
    return 1 + luma * 12 + chroma * 4 + d.bin(9) * 2 + d.bin(10)
  }

  eight(mb: number, there: number): boolean {
    return this.d.bin(399 + this.beside(mb, there, (other) => this.grid.kind[other] === kinds.eight)) === 1
  }

  mode(likely: number): number {
    const { d } = this
    if (d.bin(68)) return likely
    const mode = d.bin(69) | (d.bin(69) << 1) | (d.bin(69) << 2)
    return mode >= likely ? mode + 1 : mode
  }

  chromaMode(mb: number, there: number): number {
    const { d } = this
    let mode = 0
    if (d.bin(64 + this.beside(mb, there, (other) => this.chromaModes[other] !== 0)))
      for (mode = 1; mode < 3 && d.bin(67);) mode++
    this.chromaModes[mb] = mode
    return mode
  }

  pattern(mb: number, there: number): number {
    const { d, patterns, grid } = this
    let luma = 0
    // a quarter that is not there, or plain, counts as coded
    const missing = (other: number, bit: number, at: number) =>
      at && grid.kind[other] !== kinds.raw && ((patterns[other]! >> bit) & 1) === 0 ? 1 : 0
    for (let quarter = 0; quarter < 4; quarter++) {
      const own = (bit: number) => ((luma >> bit) & 1) ^ 1
      const line = grid.leftOf(mb, quarter * 4, 16)
      const left = quarter & 1 ? own(quarter - 1) : missing(line >> 4, ((line >> 2) & 2) | 1, there & hasLeft)
      const above = quarter > 1 ? own(quarter - 2) : missing(grid.above(mb), quarter + 2, there & hasAbove)
      luma |= d.bin(73 + left + 2 * above) << quarter
    }
    const raw = (other: number) => grid.kind[other] === kinds.raw
    const some = this.ofSides(mb, there, (other) => raw(other) || patterns[other]! > 15)
    let chroma = d.bin(77 + some)
    if (chroma) chroma += d.bin(81 + this.ofSides(mb, there, (other) => raw(other) || patterns[other]! > 31))
    const pattern = luma | (chroma << 4)
    this.patterns[mb] = pattern
    if (pattern === 0) this.changed = false
    return pattern
  }

  /** A context of four: 1 for what holds at the left, 2 for what holds above. */
  private ofSides(mb: number, there: number, of: (other: number) => boolean): number {
    const left = there & hasLeft && of(this.grid.left(mb)) ? 1 : 0
    const above = there & hasAbove && of(this.grid.above(mb)) ? 2 : 0
    return left + above
  }

  qpDelta(): number {
    const { d } = this
    let n = 0
    if (d.bin(this.changed ? 61 : 60)) {
      n = 1
      for (let context = 62; d.bin(context); context = 63) if (++n > 255) d.fault('mb_qp_delta')
    }
    this.changed = n > 0
    return n % 2 ? (n + 1) / 2 : 0 - n / 2
  }

  lumaDc(out: Int32Array, mb: number, there: number): void {
    this.dc(
      out,
      this.grid.scan(mb).four,
      16,
      blocks.lumaDc,
      0,
      mb,
      there,
      (other) => this.grid.kind[other] === kinds.whole,
    )
  }

  chromaDc(out: Int32Array, plane: number, mb: number, there: number): void {
    const lines = this.grid.chromaLines as 8 | 16
    const coded = (other: number) => this.patterns[other]! > 15
    this.dc(out, dcOrder[lines], lines >> 1, blocks.chromaDc, plane + 1, mb, there, coded)
  }

  /** DCs that stand apart: those beside count where their macroblock has such DCs. */
  private dc(
    ...[out, scan, most, kind, bit, mb, there, has]: [
      ...[out: Int32Array, scan: Uint8Array, most: number, kind: number, bit: number, mb: number, there: number],
      has: (other: number) => boolean,
    ]
  ): void {
    const side = (other: number, at: number) => {
      if (!at || this.grid.kind[other] === kinds.raw) return 1
      return has(other) ? (this.dcs[other]! >> bit) & 1 : 0
    }
    const left = side(this.grid.left(mb), there & hasLeft)
    const above = side(this.grid.above(mb), there & hasAbove)
    if (!this.d.bin(codedFrom[kind]! + left + 2 * above)) return
    this.dcs[mb]! |= 1 << bit
    this.levels(out, scan, 0, most, kind, mb)
  }

  luma4(out: Int32Array, most: 15 | 16, mb: number, there: number, block: number): void {
    const { grid } = this
    const some = codedOf(grid.lumaLeft(mb, there, block, 1), grid.lumaAbove(mb, there, block, 1))
    const kind = most === 16 ? blocks.luma4 : blocks.lumaAc
    grid.counts[mb * 32 + block] = this.block(out, 16 - most, kind, some, mb)
  }

  luma8(out: Int32Array, mb: number, _there: number, quarter: number): void {
    // where 4:2:0 and 4:2:2 are concerned, the pattern has said that there is one
    const n = this.levels(out, this.grid.scan(mb).whole, 0, 64, blocks.luma8, mb)
    const at = mb * 32 + (quarter & 2) * 4 + (quarter & 1) * 2
    for (const k of [0, 1, 4, 5]) this.grid.counts[at + k] = n
  }

  chroma4(out: Int32Array, mb: number, there: number, block: number): void {
    const { grid } = this
    const some = codedOf(grid.chromaLeft(mb, there, block, 1), grid.chromaAbove(mb, there, block, 1))
    grid.counts[mb * 32 + block] = this.block(out, 1, blocks.chromaAc, some, mb)
  }

  /** A 4×4 block from its `first` level on, which says before whether it has some; gives how many. */
  private block(out: Int32Array, first: number, kind: number, some: number, mb: number): number {
    if (!this.d.bin(codedFrom[kind]! + some)) return 0
    return this.levels(out, this.grid.scan(mb).four, first, 16 - first, kind, mb)
  }

  /** The levels of a block that has some (7.3.5.3.3): each goes to `out` at the place that `scan` gives. */
  private levels(
    ...[out, scan, first, most, kind, mb]: [
      ...[out: Int32Array, scan: Uint8Array, first: number, most: number, kind: number, mb: number],
    ]
  ): number {
    const { d, places } = this
    const field = this.grid.ofField(mb) ? 1 : 0
    const [used, last] = [usedFrom[field]![kind]!, lastFrom[field]![kind]!]
    const wide = kind === blocks.chromaDc ? (this.grid.chromaLines === 8 ? 1 : 2) : 0
    let n = 0
    let i = 0
    for (; i < most - 1; i++) {
      const [a, b] =
        kind === blocks.luma8
          ? [used8[field]![i]!, last8[i]!]
          : wide
            ? [Math.min(Math.floor(i / wide), 2), Math.min(Math.floor(i / wide), 2)]
            : [i, i]
      if (!d.bin(used + a)) continue
      places[n++] = i
      if (d.bin(last + b)) break
    }
    // the last place has a level when none before it was said to be the last
    if (i === most - 1) places[n++] = i
    let [ones, more] = [0, 0]
    const from = levelFrom[kind]!
    const mostMore = kind === blocks.chromaDc ? 3 : 4
    for (let k = n - 1; k >= 0; k--) {
      let level = 1
      if (d.bin(from + (more ? 0 : Math.min(4, 1 + ones)))) {
        const context = from + 5 + Math.min(mostMore, more)
        for (level = 2; level < 15 && d.bin(context);) level++
        if (level === 15) level += this.suffix()
        more++
      } else ones++
      out[scan[first + places[k]!]!] = d.bypass() ? -level : level
    }
    return n
  }

  /** What a level is over fourteen: Exp-Golomb of order 0, in bins as likely as not (9.3.2.3). */
  private suffix(): number {
    let [k, sum] = [0, 0]
    while (this.d.bypass()) {
      sum += 2 ** k++
      if (k > 24) this.d.fault('coeff_abs_level_minus1')
    }
    while (k-- > 0) sum += this.d.bypass() * 2 ** k
    return sum
  }

  plain(): void {
    this.changed = false
    this.d.align()
  }

  resume(): void {
    this.d.begin()
  }

  more(): boolean {
    return this.d.terminate() === 0
  }
}
