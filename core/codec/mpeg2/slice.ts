import { Bits, StreamFault } from './bits'
import { predict, type Frame, type Lines } from './frame'
import type { Part, PictureHead, Weights } from './headers'
import {
  coefficients0,
  coefficients1,
  endOfBlock,
  escape,
  has,
  incrementEscape,
  increments,
  kinds,
  meanSizes,
  motions,
  patterns,
  quantisers,
  scans,
} from './tables'
import { inverse } from '../transform'

/** What the slices of a picture have in common. */
export interface PictureWork {
  readonly head: PictureHead
  readonly weights: Weights
  readonly chroma422: boolean
  readonly frame: Frame
  /** Frames that it is predicted from: the one before, and of B pictures the one after. */
  readonly before: Frame | null
  readonly after: Frame | null
  /** Whether it is the second field of its frame: then the first one is there to predict from. */
  readonly second: boolean
  /** Macroblocks along and down, of this picture. */
  readonly columns: number
  readonly rows: number
}

/** Reads the slices of a unit into its frame. */
export interface SliceReader {
  /** Its first macroblock and its last, counted through the picture: none between is missing; null where it cannot. */
  read(part: Part, work: PictureWork): readonly [first: number, last: number] | null
  /** Leaves what was read in the frame. */
  finish(frame: Frame): void
}

type Vector = [along: number, down: number]

/** Decodes the macroblocks of one slice into its frame (H.262 6.2.4 … 7.6). */
export class Slice {
  private readonly b: Bits
  private scale = 0
  private readonly means = [0, 0, 0]
  /** Vectors that others are predicted from, by which and direction. */
  private readonly kept: Vector[][] = [
    [
      [0, 0],
      [0, 0],
    ],
    [
      [0, 0],
      [0, 0],
    ],
  ]
  private readonly vectors: Vector[][] = [
    [
      [0, 0],
      [0, 0],
    ],
    [
      [0, 0],
      [0, 0],
    ],
  ]
  private readonly fields = [
    [0, 0],
    [0, 0],
  ]
  private readonly small: Vector = [0, 0]
  private readonly block = new Int16Array(64)
  /** What the last macroblock was predicted from; skipped ones of B pictures go by it. */
  private last = 0
  private readonly ofFrame: boolean
  private readonly parity: 0 | 1

  constructor(
    private readonly work: PictureWork,
    bytes: Uint8Array,
    private readonly part: Part,
  ) {
    this.b = new Bits(bytes, part.from, part.to)
    this.ofFrame = work.head.structure === 3
    this.parity = work.head.structure === 2 ? 1 : 0
  }

  /** Decodes it; gives its first macroblock and its last, counted through the picture: none between is missing. */
  decode(): readonly [first: number, last: number] {
    const { b, work } = this
    const row = this.part.code - 1
    if (row >= work.rows) throw new StreamFault('a slice below the picture', b.at)
    this.scale = quantisers[work.head.quantiser]![b.take(5)]!
    if (b.take(1)) for (b.take(8); b.take(1);) b.take(8)
    this.resetMeans()
    this.resetVectors()
    let at = row * work.columns - 1
    const end = (row + 1) * work.columns
    let from = at + 1
    for (let first = true; first || b.look(23) !== 0; first = false) {
      let on = 0
      for (let v = b.code(increments, 'an increment'); ; v = b.code(increments, 'an increment')) {
        on += v === incrementEscape ? 33 : v
        if (v !== incrementEscape) break
        if (on > work.columns) throw new StreamFault('a macroblock beyond its row', b.at)
      }
      if (at + on >= end) throw new StreamFault('a macroblock beyond its row', b.at)
      if (first) from = at + on
      else for (let k = 1; k < on; k++) this.skipped(at + k)
      at += on
      this.macroblock(at)
    }
    return [from, at]
  }

  private resetMeans(): void {
    this.means.fill(128 << this.work.head.meanPrecision)
  }

  private resetVectors(): void {
    for (const r of this.kept) for (const v of r) v.fill(0)
  }

  private skipped(at: number): void {
    this.resetMeans()
    if (this.work.head.kind === 1) throw new StreamFault('a macroblock of an I picture is missing', this.b.at)
    if (this.work.head.kind === 2) {
      this.resetVectors()
      this.still(at)
      return
    }
    if (this.last === 0) throw new StreamFault('a macroblock is missing behind one that stands alone', this.b.at)
    // as the one before, with the vectors that are predicted
    const motion = this.ofFrame ? 2 : 1
    for (const s of [0, 1]) {
      this.vectors[0]![s] = [...this.kept[0]![s]!]
      this.fields[0]![s] = this.parity
    }
    this.predicted(at, this.last, motion)
  }

  /** A macroblock of a P picture without vectors: what was there before. */
  private still(at: number): void {
    this.vectors[0]![0] = [0, 0]
    this.fields[0]![0] = this.parity
    this.predicted(at, has.forward, this.ofFrame ? 2 : 1)
  }

  private macroblock(at: number): void {
    const { b, work, ofFrame } = this
    const { head } = work
    const type = b.code(kinds[head.kind]!, 'a kind of macroblock')
    const moves = (type & (has.forward | has.backward)) !== 0
    const intra = (type & has.intra) !== 0
    let motion = ofFrame ? 2 : 1
    if (moves && !(ofFrame && head.frameOnly)) motion = b.take(2)
    if (motion === 0) throw new StreamFault('a kind of motion that is none', b.at)
    const inFields = ofFrame && !head.frameOnly && (type & (has.intra | has.pattern)) !== 0 && b.take(1) === 1
    if (type & has.quant) this.scale = quantisers[head.quantiser]![b.take(5)]!
    const concealed = intra && head.concealed
    if (type & has.forward || concealed) this.motionVectors(0, motion)
    if (type & has.backward) this.motionVectors(1, motion)
    if (concealed) b.take(1)
    if (intra) {
      if (!concealed) this.resetVectors()
      this.blocks(at, true, inFields, work.chroma422 ? 255 : 63)
      this.last = 0
      return
    }
    this.resetMeans()
    if (moves) this.predicted(at, type, motion)
    else {
      this.resetVectors()
      this.still(at)
    }
    this.last = type & (has.forward | has.backward)
    if (type & has.pattern) {
      let pattern = b.code(patterns, 'a pattern of blocks')
      if (work.chroma422) pattern = (pattern << 2) | b.take(2)
      this.blocks(at, false, inFields, pattern)
    }
  }

  private motionVectors(s: 0 | 1, motion: number): void {
    const { ofFrame, fields } = this
    const two = ofFrame ? motion === 1 : motion === 2
    const field = !(ofFrame && motion === 2)
    const dual = motion === 3
    for (const r of two ? [0, 1] : [0]) {
      if (field && !dual) fields[r]![s] = this.b.take(1)
      for (const t of [0, 1]) this.motionVector(r, s, t, field && ofFrame && t === 1, dual)
    }
    if (!two) this.kept[1]![s] = [...this.kept[0]![s]!]
  }

  private motionVector(r: number, s: number, t: number, halved: boolean, dual: boolean): void {
    const { b } = this
    const size = this.work.head.reaches[s]![t]! - 1
    if (size < 0 || size > 8) throw new StreamFault('vectors without a reach', b.at)
    const code = b.code(motions, 'a vector')
    let delta = 0
    if (code !== 0) {
      const sign = b.take(1)
      delta = ((code - 1) << size) + b.take(size) + 1
      if (sign) delta = -delta
    }
    if (dual) this.small[t] = b.take(1) ? (b.take(1) ? -1 : 1) : 0
    const before = this.kept[r]![s]![t]!
    let v = (halved ? before >> 1 : before) + delta
    const most = 16 << size
    if (v < -most) v += 2 * most
    else if (v >= most) v -= 2 * most
    this.vectors[r]![s]![t] = v
    this.kept[r]![s]![t] = halved ? v * 2 : v
  }

  /** Lines of the frame that a direction is predicted from; of a field of it. */
  private reference(s: 0 | 1, field: 0 | 1 | null): Lines {
    const { work } = this
    const own = !this.ofFrame && work.second && work.head.kind === 2 && field !== this.parity
    const frame = own ? work.frame : s === 0 ? work.before : work.after
    if (!frame) throw new StreamFault('a picture that it leans on is missing', this.b.at, true)
    return field === null ? { frame, first: 0, step: 1 } : { frame, first: field, step: 2 }
  }

  private predicted(at: number, type: number, motion: number): void {
    let mean = false
    for (const s of [0, 1] as const) {
      if (!(type & (s === 0 ? has.forward : has.backward))) continue
      if (motion === 3) this.dual(at)
      else if (this.ofFrame) this.inFrame(at, s, motion, mean)
      else this.inField(at, s, motion, mean)
      mean = true
    }
  }

  private place(at: number): [x: number, y: number] {
    return [(at % this.work.columns) * 16, Math.floor(at / this.work.columns) * 16]
  }

  private inFrame(at: number, s: 0 | 1, motion: number, mean: boolean): void {
    const { frame } = this.work
    const [x, y] = this.place(at)
    if (motion === 2) {
      const [alongBy, downBy] = this.vectors[0]![s]!
      predict({
        to: { frame, first: 0, step: 1 },
        from: this.reference(s, null),
        ...{ x, y, height: 16, alongBy, downBy, mean },
      })
      return
    }
    for (const r of [0, 1] as const) {
      const [alongBy, downBy] = this.vectors[r]![s]!
      predict({
        to: { frame, first: r, step: 2 },
        from: this.reference(s, this.fields[r]![s] as 0 | 1),
        ...{ x, y: y / 2, height: 8, alongBy, downBy, mean },
      })
    }
  }

  private inField(at: number, s: 0 | 1, motion: number, mean: boolean): void {
    const { frame } = this.work
    const [x, y] = this.place(at)
    const parts = motion === 2 ? 2 : 1
    for (let r = 0; r < parts; r++) {
      const [alongBy, downBy] = this.vectors[r]![s]!
      predict({
        to: { frame, first: this.parity, step: 2 },
        from: this.reference(s, this.fields[r]![s] as 0 | 1),
        ...{ x, y: y + 8 * r, height: 16 / parts, alongBy, downBy, mean },
      })
    }
  }

  /** The mean of what both fields before give (7.6.3.6). */
  private dual(at: number): void {
    const { work, small } = this
    const [x, y] = this.place(at)
    const [along, down] = this.vectors[0]![0]!
    const far = (v: number, times: number) => (v * times + (v > 0 ? 1 : 0)) >> 1
    for (const to of this.ofFrame ? ([0, 1] as const) : [this.parity]) {
      const times = !this.ofFrame ? 1 : (to === 0) === work.head.upperFirst ? 1 : 3
      const other = (to === 0 ? 1 : 0) as 0 | 1
      const shared = {
        to: { frame: work.frame, first: to, step: 2 as const },
        ...{ x, y: this.ofFrame ? y / 2 : y, height: this.ofFrame ? 8 : 16 },
      }
      predict({ ...shared, from: this.reference(0, to), alongBy: along, downBy: down, mean: false })
      predict({
        ...shared,
        from: this.reference(0, other),
        alongBy: far(along, times) + small[0],
        downBy: far(down, times) + small[1] + (to === 0 ? -1 : 1),
        mean: true,
      })
    }
  }

  private blocks(at: number, intra: boolean, inFields: boolean, pattern: number): void {
    const { work, ofFrame, parity } = this
    const { frame, chroma422 } = work
    const count = chroma422 ? 8 : 6
    const [x, y] = this.place(at)
    const lines = ofFrame ? 1 : 2
    for (let i = 0; i < count; i++) {
      if (!(pattern & (1 << (count - 1 - i)))) continue
      const k = i < 4 ? 0 : ((1 + (i & 1)) as 1 | 2)
      if (intra) this.intraBlock(k)
      else this.otherBlock(k)
      const width = k === 0 ? frame.width : frame.width >> 1
      const left = k === 0 ? x + 8 * (i & 1) : x >> 1
      const top = k === 0 || chroma422 ? y : y >> 1
      const below = k === 0 ? i >> 1 : (i - 4) >> 1
      // chroma of 4:2:0 has too few lines to be in fields
      const apart = inFields && (k === 0 || chroma422)
      const from = (top * lines + parity + (apart ? below : 8 * below * lines)) * width + left
      put(inverse(this.block), frame.clamped[k]!, from, width * (apart ? 2 : lines), intra)
    }
  }

  private intraBlock(k: 0 | 1 | 2): void {
    const { b, block, means } = this
    const { head, weights } = this.work
    block.fill(0)
    const size = b.code(meanSizes[k === 0 ? 0 : 1], 'the size of a mean')
    if (size > 0) {
      const v = b.take(size)
      means[k]! += v >> (size - 1) ? v : v - (1 << size) + 1
    }
    block[0] = means[k]! << (3 - head.meanPrecision)
    const w = weights.intra[k === 0 ? 0 : 1]
    this.coefficients(1, head.intraCodes ? coefficients1 : coefficients0, (level, at) => {
      const v = level * w[at]! * this.scale
      return v < 0 ? -(-v >> 4) : v >> 4
    })
  }

  private otherBlock(k: 0 | 1 | 2): void {
    const { b, block } = this
    block.fill(0)
    const w = this.work.weights.other[k === 0 ? 0 : 1]
    const value = (level: number, at: number) => {
      const v = (2 * Math.abs(level) + 1) * w[at]! * this.scale
      return level < 0 ? -(v >> 5) : v >> 5
    }
    let from = 0
    // the first one cannot be the end, and has a shorter code
    if (b.look(1) === 1) {
      b.take(1)
      block[0] = held(value(b.take(1) ? -1 : 1, 0))
      from = 1
    }
    this.coefficients(from, coefficients0, value)
  }

  private coefficients(from: number, codes: typeof coefficients0, value: (level: number, at: number) => number): void {
    const { b, block } = this
    const scan = scans[this.work.head.scan]!
    let sum = block[0]!
    for (let i = from; ; i++) {
      const v = b.code(codes, 'a coefficient')
      if (v === endOfBlock) break
      let level: number
      if (v === escape) {
        i += b.take(6)
        level = (b.take(12) << 20) >> 20
      } else {
        i += v >> 6
        level = b.take(1) ? -(v & 63) : v & 63
      }
      if (i > 63) throw new StreamFault('more coefficients than a block has', b.at)
      const at = scan[i]!
      block[at] = held(value(level, at))
      sum += block[at]!
    }
    // mismatch control (7.4.4)
    if ((sum & 1) === 0) block[63]! ^= 1
  }
}

/** A coefficient within what it may be (7.4.3). */
const held = (c: number) => (c > 2047 ? 2047 : c < -2048 ? -2048 : c)

/** Writes the values of a block, or adds them to what was predicted. */
function put(values: Float64Array, out: Uint8ClampedArray, from: number, step: number, intra: boolean): void {
  for (let v = 0; v < 64; v += 8) {
    const o = from + (v >> 3) * step
    if (intra) for (let u = 0; u < 8; u++) out[o + u] = values[v + u]!
    else for (let u = 0; u < 8; u++) out[o + u] = out[o + u]! + values[v + u]!
  }
}
