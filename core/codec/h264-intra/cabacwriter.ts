import { contextsAt, lesserNext, lesserRange, type Bins } from './cabac'
import { CabacReader } from './cabacreader'
import { kinds, type Grid } from './grid'
import { dcOrder } from './rebuild'
import type { SliceWriter } from './slicebits'
import type { MacroblockWriter } from './syntax'

/**
 * The arithmetic encoder of ITU-T H.264 9.3.4.5. Bins are told first, and coded when they are asked for by a context:
 * so that who reads a slice and who writes one have their contexts from one place.
 */
export class CabacEncoder implements Bins {
  private readonly told: number[] = []
  private next = 0
  private low = 0
  private range = 510
  private first = true
  private outstanding = 0
  private readonly states: Uint8Array

  constructor(
    private readonly w: SliceWriter,
    qp: number,
  ) {
    this.states = contextsAt(qp)
    // cabac_alignment_one_bit
    while (w.length & 7) w.u(1, 1)
  }

  /** Tells the bins of an element, which `read` then asks for. */
  code(bins: readonly number[], read: () => unknown): void {
    this.told.length = this.next = 0
    this.told.push(...bins)
    read()
    if (this.next !== this.told.length) throw new Error('bins that nobody asked for')
  }

  begin(): void {
    this.low = this.outstanding = 0
    this.range = 510
    this.first = true
  }

  align(): void {
    this.w.align()
  }

  fault(element: string): never {
    throw new Error(`${element} cannot be coded`)
  }

  /** The last bit that ends a slice is its stop bit, which the writer of the slice adds. */
  end(): void {
    this.w.cut(this.w.length - 1)
  }

  private take(): number {
    const bin = this.told[this.next++]
    if (bin === undefined) throw new Error('a bin that was not told')
    return bin
  }

  bin(context: number): number {
    const bin = this.take()
    const state = this.states[context]!
    const lesser = lesserRange[(state >> 1) * 4 + ((this.range >> 6) & 3)]!
    this.range -= lesser
    if (bin !== (state & 1)) {
      this.low += this.range
      this.range = lesser
      this.states[context] = lesserNext[state >> 1]! * 2 + (state < 2 ? bin : state & 1)
    } else if (state < 124) this.states[context] = state + 2
    this.renormalise()
    return bin
  }

  bypass(): number {
    const bin = this.take()
    this.low = this.low * 2 + (bin ? this.range : 0)
    if (this.low >= 1024) {
      this.put(1)
      this.low -= 1024
    } else if (this.low < 512) this.put(0)
    else {
      this.low -= 512
      this.outstanding++
    }
    return bin
  }

  terminate(): number {
    const bin = this.take()
    this.range -= 2
    if (bin) {
      this.low += this.range
      this.range = 2
      this.renormalise()
      this.put((this.low >> 9) & 1)
      this.w.u(2, ((this.low >> 7) & 3) | 1)
    } else this.renormalise()
    return bin
  }

  private renormalise(): void {
    while (this.range < 256) {
      if (this.low < 256) this.put(0)
      else if (this.low >= 512) {
        this.low -= 512
        this.put(1)
      } else {
        this.low -= 256
        this.outstanding++
      }
      this.range *= 2
      this.low *= 2
    }
  }

  private put(bit: number): void {
    if (this.first) this.first = false
    else this.w.u(1, bit)
    for (; this.outstanding > 0; this.outstanding--) this.w.u(1, bit ^ 1)
  }
}

/** Chroma's part of a pattern: nothing, DCs, all. */
const chromaBins = [[0], [1, 0], [1, 1]]

/** Of table 9-36: 0 by blocks, 25 plain, else how as a whole, what of it has levels, and its mode. */
function typeBins(type: number): number[] {
  if (type === 0) return [0]
  if (type === 25) return [1, 1]
  const t = type - 1
  return [1, 0, t >= 12 ? 1 : 0, ...chromaBins[(t >> 2) % 3]!, (t >> 1) & 1, t & 1]
}

/** Writes macroblocks by arithmetic coding (9.3): each element as the bins that its reader asks for. */
export class CabacWriter implements MacroblockWriter {
  private readonly reader: CabacReader
  private readonly back = new Int32Array(64)

  constructor(
    private readonly d: CabacEncoder,
    private readonly grid: Grid,
  ) {
    this.reader = new CabacReader(grid, d)
  }

  pair(ofFields: boolean, fieldsBeside: number): void {
    this.d.code([ofFields ? 1 : 0], () => this.reader.pair(fieldsBeside))
  }

  type(type: number, mb: number, there: number): void {
    this.d.code(typeBins(type), () => this.reader.type(mb, there))
  }

  eight(eight: boolean, mb: number, there: number): void {
    this.d.code([eight ? 1 : 0], () => this.reader.eight(mb, there))
  }

  mode(mode: number, likely: number): void {
    const rest = mode > likely ? mode - 1 : mode
    const bins = mode === likely ? [1] : [0, rest & 1, (rest >> 1) & 1, rest >> 2]
    this.d.code(bins, () => this.reader.mode(likely))
  }

  chromaMode(mode: number, mb: number, there: number): void {
    this.d.code([[0], [1, 0], [1, 1, 0], [1, 1, 1]][mode]!, () => this.reader.chromaMode(mb, there))
  }

  pattern(pattern: number, mb: number, there: number): void {
    const luma = [0, 1, 2, 3].map((k) => (pattern >> k) & 1)
    this.d.code([...luma, ...chromaBins[pattern >> 4]!], () => this.reader.pattern(mb, there))
  }

  qpDelta(delta: number): void {
    const n = delta > 0 ? 2 * delta - 1 : -2 * delta
    this.d.code([...Array.from({ length: n }, () => 1), 0], () => this.reader.qpDelta())
  }

  lumaDc(levels: Int32Array, mb: number, there: number): void {
    this.block(levels, this.grid.scan(mb).four, 0, 16, (to) => this.reader.lumaDc(to, mb, there))
  }

  chromaDc(levels: Int32Array, plane: number, mb: number, there: number): void {
    const lines = this.grid.chromaLines as 8 | 16
    this.block(levels, dcOrder[lines], 0, lines >> 1, (to) => this.reader.chromaDc(to, plane, mb, there))
  }

  luma4(levels: Int32Array, most: 15 | 16, mb: number, there: number, block: number): void {
    this.block(levels, this.grid.scan(mb).four, 16 - most, most, (to) => this.reader.luma4(to, most, mb, there, block))
  }

  luma8(levels: Int32Array, mb: number, there: number, quarter: number): void {
    const list = Array.from(this.grid.scan(mb).whole, (place) => levels[place]!)
    this.d.code(levelsBins(list), () => this.reader.luma8(this.back, mb, there, quarter))
  }

  chroma4(levels: Int32Array, mb: number, there: number, block: number): void {
    this.block(levels, this.grid.scan(mb).four, 1, 15, (to) => this.reader.chroma4(to, mb, there, block))
  }

  /** A block that says first whether it has levels. */
  private block(
    ...[levels, scan, first, most, read]: [
      ...[levels: Int32Array, scan: Uint8Array, first: number, most: number],
      read: (to: Int32Array) => void,
    ]
  ): void {
    const list = Array.from({ length: most }, (_, i) => levels[scan[first + i]!]!)
    const some = list.some((v) => v !== 0)
    this.d.code(some ? [1, ...levelsBins(list)] : [0], () => read(this.back))
  }

  plain(mb: number): void {
    this.reader.plain()
    this.grid.kind[mb] = kinds.raw
  }

  resume(): void {
    this.reader.resume()
  }

  more(more: boolean): void {
    this.d.code([more ? 0 : 1], () => this.reader.more())
    if (!more) this.d.end()
  }
}

/** The bins of a block that has levels (7.3.5.3.3). */
function levelsBins(list: readonly number[]): number[] {
  const last = list.findLastIndex((v) => v !== 0)
  const places = list.slice(0, -1).flatMap((v, i) => (i > last ? [] : v === 0 ? [0] : [1, i === last ? 1 : 0]))
  const levels = list.filter((v) => v !== 0).reverse()
  return [...places, ...levels.flatMap(levelBins)]
}

/** A level: up to fourteen in ones, the rest as Exp-Golomb of order 0; its sign (9.3.2.3). */
function levelBins(level: number): number[] {
  const n = Math.abs(level) - 1
  const bins = Array.from({ length: Math.min(14, n) }, () => 1)
  if (n < 14) bins.push(0)
  else {
    let [rest, k] = [n - 14, 0]
    for (; rest >= 2 ** k; k++) {
      bins.push(1)
      rest -= 2 ** k
    }
    bins.push(0)
    while (k-- > 0) bins.push((rest >> k) & 1)
  }
  return [...bins, level < 0 ? 1 : 0]
}
