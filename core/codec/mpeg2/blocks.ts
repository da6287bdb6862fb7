import { BitWriter } from '../../bits'
import type { Picture } from '../../picture/picture'
import { coefficients1, intraWeights, meanSizes, quantisers, scans, written } from './tables'
import { forward } from '../transform'
import { meanPrecision, writeSliceHead, type IntraFormat } from './write'

/** Blocks of a macroblock of 4:2:2. */
export const blocksEach = 8
/** Coefficients are kept in eighths: of 8 bits they are less than 2^15 so. */
const fine = 8
/** How far a level is rounded, as in the kernel: a little down, for what is nearly nought costs more than it shows. */
const rounding = Math.fround(0.38)
/** The highest level that can be written (7.2.2.3). */
const highest = 2047
/** Bits of a level that no code stands for, and of the end of a block (table B.15). */
const [escaped, ended] = [24, 4]
const endCode = 0b0110

export const pairs = written(coefficients1, 1 << 12)
export const means = meanSizes.map((s) => written(s, 12))
/** Bits of a run and a level, with its sign. */
export const pairBits = Uint8Array.from(pairs.sizes, (n) => (n === 0 ? escaped : n + 1))
/** The coarsest quantiser by its code (table 7-6); beyond it nothing is kept of a block but its mean. */
const coarsest = quantisers[1]!.length - 1
export const meansAlone = coarsest + 1
/** What a coefficient is multiplied by for its level, by quantiser and place in the scan: one scan after the other. */
export const factors = scans.map((scan) => [
  ...Array.from(quantisers[1]!, (scale) => Float32Array.from(scan, (at) => 16 / (fine * intraWeights[at]! * scale))),
  new Float32Array(64),
])

/** What is worked out of a picture's macroblocks: transformed once, weighed as often as need be, and written. */
export interface Blocks {
  /** Takes a picture of 8 bits and 4:2:2 in. */
  load(picture: Picture): void
  /** Bits of each macroblock at a quantiser, but for those that say a new one. */
  cost(quantiser: number): Uint32Array
  /** The slices of the picture, one for each line of macroblocks, each macroblock at its quantiser. */
  write(quantisers: Uint8Array): Uint8Array
}

/** Whether pictures are of two moments. */
export const isMoving = ({ scan }: Pick<IntraFormat, 'scan'>) => scan === 'interlaced-tff' || scan === 'interlaced-bff'

/** Macroblocks along and down. */
export const gridOf = ({ form }: Pick<IntraFormat, 'form'>) => ({ columns: form.width / 16, rows: form.lines / 16 })

/** The planes of a picture in whole macroblocks. */
export class CodedPlanes {
  readonly planes: readonly Uint8Array[]

  constructor(private readonly format: IntraFormat) {
    const { width, lines } = format.form
    this.planes = [width, width / 2, width / 2].map((w, k) => new Uint8Array(w * lines).fill(k === 0 ? 16 : 128))
  }

  /** Lines of the blanking are above, or the last line goes on below: that of each field. */
  load({ planes, height }: Picture): void {
    const { form } = this.format
    const first = form.d10 ? form.lines - form.height : 0
    planes.forEach((plane, k) => {
      const width = k === 0 ? form.width : form.width / 2
      const own = this.planes[k]!
      own.set(plane, first * width)
      for (let y = first + height; y < form.lines; y++) own.copyWithin(y * width, (y - 2) * width, (y - 1) * width)
    })
  }
}

/** How many bits a difference of means has. */
const sizeOf = (difference: number) => 32 - Math.clz32(Math.abs(difference))

/** Coefficients of macroblocks in the order they are scanned; kernel/assembly/mpeg2/encode.ts does the same. */
export class PlainBlocks implements Blocks {
  private readonly columns: number
  private readonly rows: number
  private readonly coefficients: Int16Array
  /** Whether the lines of a macroblock are taken field by field. */
  private readonly apart: Uint8Array
  private readonly block = new Float32Array(64)
  private readonly scan: Uint8Array
  private readonly factors: readonly Float32Array[]
  private readonly coded: CodedPlanes
  private readonly moving: boolean

  constructor(private readonly format: IntraFormat) {
    const { columns, rows } = gridOf(format)
    this.columns = columns
    this.rows = rows
    this.coefficients = new Int16Array(columns * rows * blocksEach * 64)
    this.apart = new Uint8Array(columns * rows)
    this.moving = isMoving(format)
    this.scan = scans[this.moving ? 1 : 0]!
    this.factors = factors[this.moving ? 1 : 0]!
    this.coded = new CodedPlanes(format)
  }

  load(picture: Picture): void {
    this.coded.load(picture)
    for (let mb = 0; mb < this.apart.length; mb++) this.macroblock(mb)
  }

  private macroblock(mb: number): void {
    const { width } = this.format.form
    const [x, y] = [(mb % this.columns) * 16, Math.floor(mb / this.columns) * 16]
    const apart = this.moving && inFields(this.coded.planes[0]!, y * width + x, width)
    this.apart[mb] = apart ? 1 : 0
    for (let i = 0; i < blocksEach; i++) {
      const k = i < 4 ? 0 : 1 + (i & 1)
      const stride = k === 0 ? width : width / 2
      const left = k === 0 ? x + 8 * (i & 1) : x / 2
      const below = k === 0 ? i >> 1 : (i - 4) >> 1
      const from = (y + (apart ? below : 8 * below)) * stride + left
      this.transform(this.coded.planes[k]!, from, apart ? 2 * stride : stride, (mb * blocksEach + i) * 64)
    }
  }

  private transform(plane: Uint8Array, from: number, stride: number, to: number): void {
    const { block, scan, coefficients } = this
    for (let v = 0, at = from; v < 64; v += 8, at += stride) for (let u = 0; u < 8; u++) block[v + u] = plane[at + u]!
    forward(block)
    for (let i = 0; i < 64; i++) coefficients[to + i] = Math.floor(Math.fround(block[scan[i]!]! * fine + 0.5))
  }

  /** The mean of a block as it is coded. */
  private mean(block: number): number {
    const step = fine << (3 - meanPrecision)
    return Math.min((256 << meanPrecision) - 1, Math.round(this.coefficients[block * 64]! / step))
  }

  cost(quantiser: number): Uint32Array {
    const out = new Uint32Array(this.apart.length)
    const before = [0, 0, 0]
    for (let mb = 0; mb < out.length; mb++) {
      if (mb % this.columns === 0) before.fill(128 << meanPrecision)
      let bits = this.moving ? 3 : 2
      for (let i = 0; i < blocksEach; i++) {
        const block = mb * blocksEach + i
        const k = i < 4 ? 0 : 1 + (i & 1)
        const mean = this.mean(block)
        const size = sizeOf(mean - before[k]!)
        before[k] = mean
        bits += means[k === 0 ? 0 : 1]!.sizes[size]! + size + this.blockBits(block * 64, quantiser)
      }
      out[mb] = bits
    }
    return out
  }

  private blockBits(from: number, quantiser: number): number {
    const { coefficients } = this
    const list = this.factors[quantiser]!
    let bits = ended
    let run = 0
    for (let i = 1; i < 64; i++) {
      const level = levelOf(coefficients[from + i]!, list[i]!)
      if (level === 0) run++
      else {
        bits += level < 64 ? pairBits[(run << 6) | level]! : escaped
        run = 0
      }
    }
    return bits
  }

  write(quantisers: Uint8Array): Uint8Array {
    const w = new BitWriter()
    for (let row = 0; row < this.rows; row++) this.line(w, row, quantisers)
    return w.finish()
  }

  private line(w: BitWriter, row: number, quantisers: Uint8Array): void {
    const before = [0, 0, 0].fill(128 << meanPrecision)
    let last = codeOf(quantisers[row * this.columns]!)
    writeSliceHead(w, row, last)
    for (let mb = row * this.columns; mb < (row + 1) * this.columns; mb++) {
      const quantiser = quantisers[mb]!
      // the next one; intra, of a new quantiser or of the same; how its lines are taken
      w.u(1, 1)
      const code = codeOf(quantiser)
      w.u(code === last ? 1 : 2, 1)
      if (this.moving) w.u(1, this.apart[mb]!)
      if (code !== last) w.u(5, code)
      last = code
      for (let i = 0; i < blocksEach; i++) {
        const block = mb * blocksEach + i
        const k = i < 4 ? 0 : 1 + (i & 1)
        const mean = this.mean(block)
        writeMean(w, k, mean - before[k]!)
        before[k] = mean
        this.writeBlock(w, block * 64, quantiser)
      }
    }
  }

  private writeBlock(w: BitWriter, from: number, quantiser: number): void {
    const { coefficients } = this
    const list = this.factors[quantiser]!
    let run = 0
    for (let i = 1; i < 64; i++) {
      const c = coefficients[from + i]!
      const level = Math.min(highest, levelOf(c, list[i]!))
      if (level === 0) {
        run++
        continue
      }
      const pair = (run << 6) | level
      const size = level < 64 ? pairs.sizes[pair]! : 0
      if (size > 0) w.u(size + 1, (pairs.codes[pair]! << 1) | (c < 0 ? 1 : 0))
      else w.u(escaped, (1 << 18) | (run << 12) | ((c < 0 ? -level : level) & 0xfff))
      run = 0
    }
    w.u(ended, endCode)
  }
}

/** The level of a coefficient. */
const levelOf = (c: number, factor: number) => Math.fround(Math.fround(Math.abs(c) * factor) + rounding) | 0

/** The code of a quantiser. */
const codeOf = (quantiser: number) => Math.min(coarsest, quantiser)

function writeMean(w: BitWriter, k: number, difference: number): void {
  const size = sizeOf(difference)
  const { codes, sizes } = means[k === 0 ? 0 : 1]!
  w.u(sizes[size]!, codes[size]!)
  if (size > 0) w.u(size, difference < 0 ? difference + (1 << size) - 1 : difference)
}

/** Whether the lines of a macroblock are more alike within their fields than next to each other. */
function inFields(luma: Uint8Array, from: number, stride: number): boolean {
  let [near, far] = [0, 0]
  for (let y = 0; y < 14; y++)
    for (let x = 0, at = from + y * stride; x < 16; x++, at++) {
      const v = luma[at]!
      near += Math.abs(v - luma[at + stride]!)
      far += Math.abs(v - luma[at + 2 * stride]!)
    }
  return far < near
}
