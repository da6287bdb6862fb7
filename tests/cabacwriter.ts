import { concatBytes } from '../core/bytes'
import { unescapeNal } from '../core/bits'
import { contextsAt, lesserNext, lesserRange, type Bins } from '../core/codec/h264-intra/cabac'
import { CabacReader } from '../core/codec/h264-intra/cabacreader'
import { IntraDecoder } from '../core/codec/h264-intra/decode'
import type { Grid } from '../core/codec/h264-intra/grid'
import { scans, type Scan } from '../core/codec/h264-intra/parameters'
import { dcOrder } from '../core/codec/h264-intra/rebuild'
import type { SliceReader } from '../core/codec/h264-intra/slicebits'
import { SliceWriter } from '../core/codec/h264-intra/slicebits'
import { CavlcReader, type MacroblockReader } from '../core/codec/h264-intra/syntax'
import { unitsOf } from '../core/codec/nal'
import { unit } from '../core/codec/h264-intra/write'

// Streams that are coded by CAVLC, coded anew by CABAC: the macroblocks stay, so that a decoder has to make the same of
// both. Contexts are those that our reader asks for; another decoder judges whether they are the right ones.

/** Codes bins that were told before by the contexts that a reader asks for them with (ITU-T H.264 9.3.4.5). */
class CabacEncoder implements Bins {
  readonly told: number[] = []
  private low = 0
  private range = 510
  private first = true
  private outstanding = 0
  private readonly states: Uint8Array

  constructor(
    readonly w: SliceWriter,
    qp: number,
  ) {
    this.states = contextsAt(qp)
  }

  begin(): void {
    Object.assign(this, { low: 0, range: 510, first: true, outstanding: 0 })
  }

  align(): void {
    this.w.align()
  }

  fault(element: string): never {
    throw new Error(element)
  }

  private next(): number {
    const bin = this.told.shift()
    if (bin === undefined) throw new Error('a bin that was not told')
    return bin
  }

  bin(context: number): number {
    const bin = this.next()
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
    const bin = this.next()
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
    const bin = this.next()
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

/** Reads macroblocks by CAVLC, and has each element written by CABAC. */
class Recoder implements MacroblockReader {
  private readonly to: CabacReader
  private readonly counts: Uint8Array

  constructor(
    private readonly from: CavlcReader,
    private readonly r: SliceReader,
    private readonly grid: Grid,
    private readonly scan: Scan,
    readonly out: CabacEncoder,
    private readonly depth: number,
  ) {
    // what is counted for CAVLC is counted by its own blocks: of 8×8 ones, each fourth level
    this.counts = new Uint8Array(grid.counts.length)
    this.to = new CabacReader(Object.create(grid, { counts: { value: this.counts } }) as Grid, scan, out)
  }

  /** Tells the bins of an element, and has them taken by the contexts of the reader, which has to read the same. */
  private coded(value: number, bins: readonly number[], read: () => number): number {
    this.out.told.push(...bins)
    const back = read()
    if (back !== value || this.out.told.length) throw new Error(`${value} was read as ${back}`)
    return value
  }

  type(mb: number, there: number): number {
    const type = this.from.type()
    const t = type - 1
    const chroma = (t >> 2) % 3
    const bins =
      type === 0
        ? [0]
        : type === 25
          ? [1, 1]
          : [1, 0, t >= 12 ? 1 : 0, ...[[0], [1, 0], [1, 1]][chroma]!, (t >> 1) & 1, t & 1]
    return this.coded(type, bins, () => this.to.type(mb, there))
  }

  eight(mb: number, there: number): boolean {
    const eight = this.from.eight() ? 1 : 0
    return this.coded(eight, [eight], () => (this.to.eight(mb, there) ? 1 : 0)) === 1
  }

  mode(likely: number): number {
    const mode = this.from.mode(likely)
    const rest = mode > likely ? mode - 1 : mode
    const bins = mode === likely ? [1] : [0, rest & 1, (rest >> 1) & 1, rest >> 2]
    return this.coded(mode, bins, () => this.to.mode(likely))
  }

  chromaMode(mb: number, there: number): number {
    const mode = this.from.chromaMode()
    return this.coded(mode, [[0], [1, 0], [1, 1, 0], [1, 1, 1]][mode]!, () => this.to.chromaMode(mb, there))
  }

  pattern(mb: number, there: number): number {
    const pattern = this.from.pattern()
    const luma = [0, 1, 2, 3].map((k) => (pattern >> k) & 1)
    return this.coded(pattern, [...luma, ...[[0], [1, 0], [1, 1]][pattern >> 4]!], () => this.to.pattern(mb, there))
  }

  qpDelta(): number {
    const delta = this.from.qpDelta()
    const n = delta > 0 ? 2 * delta - 1 : -2 * delta
    return this.coded(delta, [...Array.from({ length: n }, () => 1), 0], () => this.to.qpDelta())
  }

  lumaDc(out: Int32Array, mb: number, there: number): void {
    this.from.lumaDc(out, mb, there)
    this.block(out, this.scan.four, 0, 16, true, (to) => this.to.lumaDc(to, mb, there))
  }

  chromaDc(out: Int32Array, plane: number, mb: number, there: number): void {
    this.from.chromaDc(out)
    const lines = this.grid.chromaLines as 8 | 16
    this.block(out, dcOrder[lines], 0, lines >> 1, true, (to) => this.to.chromaDc(to, plane, mb, there))
  }

  luma4(out: Int32Array, most: 15 | 16, mb: number, there: number, block: number): void {
    this.from.luma4(out, most, mb, there, block)
    this.block(out, this.scan.four, 16 - most, most, true, (to) => this.to.luma4(to, most, mb, there, block))
  }

  luma8(out: Int32Array, mb: number, there: number, quarter: number): void {
    this.from.luma8(out, mb, there, quarter)
    // a quarter that the pattern names has to have a level by CABAC: our encoder names no others
    this.block(out, this.scan.whole, 0, 64, false, (to) => this.to.luma8(to, mb, there, quarter))
  }

  chroma4(out: Int32Array, mb: number, there: number, block: number): void {
    this.from.chroma4(out, mb, there, block)
    this.block(out, this.scan.four, 1, 15, true, (to) => this.to.chroma4(to, mb, there, block))
  }

  private block(
    ...[levels, scan, first, most, flagged, read]: [
      ...[levels: Int32Array, scan: Uint8Array, first: number, most: number, flagged: boolean],
      read: (to: Int32Array) => void,
    ]
  ): void {
    const list = Array.from({ length: most }, (_, i) => levels[scan[first + i]!]!)
    const last = list.findLastIndex((v) => v !== 0)
    const { told } = this.out
    if (flagged) told.push(last < 0 ? 0 : 1)
    if (last >= 0 || !flagged) {
      if (last < 0) throw new Error('a block of 8×8 without levels')
      for (let i = 0; i < most - 1 && i <= last; i++) told.push(...(list[i] ? [1, i === last ? 1 : 0] : [0]))
      for (let i = last; i >= 0; i--) if (list[i]) told.push(...levelBins(list[i]!))
    }
    const back = new Int32Array(levels.length)
    read(back)
    if (told.length || back.some((v, i) => v !== levels[i])) throw new Error('levels that were read otherwise')
  }

  plain(mb: number): void {
    this.from.plain()
    this.to.plain()
    const { r, grid, out } = this
    const at = r.at
    const samples = 256 + 16 * grid.chromaLines
    for (let i = 0; i < samples; i++) out.w.u(this.depth, r.u(this.depth))
    r.at = at
    this.counts.fill(16, mb * 32, mb * 32 + 32)
  }

  resume(): void {
    this.to.resume()
  }

  more(): boolean {
    const more = this.from.more()
    this.out.told.push(more ? 0 : 1)
    this.to.more()
    return more
  }
}

function levelBins(level: number): number[] {
  const n = Math.abs(level) - 1
  const prefix = Array.from({ length: Math.min(14, n) }, () => 1)
  const bins = n < 14 ? [...prefix, 0] : prefix
  if (n >= 14) {
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

/** An access unit of CAVLC as one of CABAC. */
export function recoded(bytes: Uint8Array, depth: number): Uint8Array {
  const parts: Uint8Array[] = []
  const written: SliceWriter[] = []
  const decoder = new IntraDecoder(true, (r, grid, header) => {
    const scan = header.field === 'frame' ? scans.frame : scans.field
    const w = new SliceWriter()
    const end = r.at
    r.at = 0
    while (r.at < end) w.u(1, r.u(1))
    while (w.length & 7) w.u(1, 1)
    written.push(w)
    return new Recoder(new CavlcReader(r, grid, scan), r, grid, scan, new CabacEncoder(w, header.qp), depth)
  })
  const units = unitsOf(bytes)
  decoder.decode(units)
  for (const nal of units) {
    const kind = nal[0]! & 31
    if (kind === 8) parts.push(unit(nal[0]!, withCabac(nal)))
    else if (kind === 1 || kind === 5) {
      const w = written.shift()!
      const { length } = w
      // the last bit that ends a slice is its stop bit
      w.cut(length - 1)
      parts.push(unit(nal[0]!, w.stop()))
    } else parts.push(Uint8Array.of(0, 0, 0, 1), nal)
  }
  return concatBytes(parts)
}

/** A picture parameter set whose flag for CABAC is set: the bit behind two numbers that are nought. */
function withCabac(nal: Uint8Array): Uint8Array {
  const payload = unescapeNal(nal.subarray(1))
  payload[0] = payload[0]! | 0x20
  return payload
}
