import { blockOrder, kinds, there4, there8, type Grid, type Surface } from './grid'
import { blockValues, hasAbove, hasCorner, hasLeft, needs, places4, places8, predict16, predictChroma } from './predict'
import { Levels, Rebuilder } from './rebuild'
import type { SliceWriter } from './slicebits'
import type { MacroblockWriter } from './syntax'
import { penalties } from './tables'
import { chromaDc, flat, forward4, forward8, lumaDc, quantise4, quantise8, quantiseDc } from './transform'

/** What a test has done instead of what would be best: a kind of macroblock, one of the modes that can be. */
export interface Chosen {
  kind(mb: number): number
  /** Whether a pair of an adaptive frame is of fields. */
  pair?(mb: number): boolean
  mode(possible: readonly number[]): number
}

const all = hasLeft | hasAbove | hasCorner
/** What each mode of a whole macroblock, and of chroma, needs. */
const needs16 = Uint8Array.of(hasAbove, hasLeft, 0, all)
const needsChroma = Uint8Array.of(0, hasLeft, hasAbove, all)

/** The modes that can be, by the neighbours there are. */
const possible = (needed: Uint8Array) =>
  Array.from({ length: 16 }, (_, there) => [...needed.keys()].filter((mode) => (needed[mode]! & ~there) === 0))
const [possibleBlock, possible16, possibleChroma] = [possible(needs), possible(needs16), possible(needsChroma)]

/** Encodes the macroblocks of one picture; what a decoder will make of it is in its grid's surface. */
export class MacroblockEncoder {
  private readonly rebuilder: Rebuilder
  private readonly levels = new Levels()
  private readonly work = new Levels()
  private readonly values = new Int32Array(128)
  private readonly wanted = new Int32Array(256)
  private readonly predicted = new Int32Array(256)
  /** The mode of each block in the order they are coded, and then the ones they are told against. */
  private readonly told = new Int8Array(32)
  private qp = 0
  private plain = false
  private w!: SliceWriter
  private out!: MacroblockWriter

  constructor(
    private readonly grid: Grid,
    private readonly source: Surface,
    private readonly depth: 8 | 10,
    private readonly chosen: Chosen | null = null,
  ) {
    this.rebuilder = new Rebuilder(depth, flat, [0, 0])
  }

  /**
   * Begins a slice, whose header says a QP, in bits that `out` writes macroblocks to; `plain` keeps no more of chroma
   * than a mean for each block.
   */
  begin(w: SliceWriter, out: MacroblockWriter, qp: number, plain = false): void {
    this.w = w
    this.out = out
    this.qp = qp
    this.plain = plain
  }

  /** Encodes a macroblock of a slice at a QP. */
  macroblock(mb: number, slice: number, qp: number): void {
    const { grid, chosen } = this
    grid.slices[mb] = slice
    grid.counts.fill(0, mb * 32, mb * 32 + 32)
    grid.qps[mb] = qp
    const there = grid.there(mb)
    const kind = chosen?.kind(mb) ?? null
    if (kind === kinds.raw) return this.raw(mb, there)
    const whole = kind === null || kind === kinds.whole ? this.whole(mb, there) : { mode: 0, cost: Infinity }
    if (kind !== kinds.whole) {
      const parts = kind ?? kinds.eight
      const { pattern, cost } = this.parts(mb, there, parts)
      if (cost < whole.cost) return this.writeParts(mb, there, parts, pattern)
    }
    this.writeWhole(mb, there, whole.mode)
  }

  /** The samples of a plane's macroblock as they should be, `width` wide. */
  private want(mb: number, plane: number, width: number, lines: number): void {
    const from = this.source.planes[plane]!
    const stride = this.grid.stride(mb, plane)
    for (let y = 0, i = 0, at = this.grid.at(mb, plane); y < lines; y++, at += stride)
      for (let x = 0; x < width; x++) this.wanted[i++] = from[at + x]!
  }

  private pick(modes: readonly number[], costOf: (mode: number) => number): { mode: number; cost: number } {
    if (this.chosen) return { mode: this.chosen.mode(modes), cost: 0 }
    let best = { mode: 0, cost: Infinity }
    for (const mode of modes) {
      const cost = costOf(mode)
      if (cost < best.cost) best = { mode, cost }
    }
    return best
  }

  private difference(count: number): number {
    let sum = 0
    for (let i = 0; i < count; i++) {
      const d = this.wanted[i]! - this.predicted[i]!
      sum += d < 0 ? -d : d
    }
    return sum
  }

  /** The best mode for a macroblock as a whole. */
  private whole(mb: number, there: number): { mode: number; cost: number } {
    const { grid, rebuilder } = this
    this.want(mb, 0, 16, 16)
    const plane = grid.surface.planes[0]
    const [at, stride] = [grid.at(mb, 0), grid.stride(mb, 0)]
    return this.pick(possible16[there & all]!, (mode) => {
      predict16(this.predicted, mode, plane, at, stride, there, rebuilder.most)
      return this.difference(256)
    })
  }

  /** Predicts, transforms and rebuilds a macroblock block by block; gives which quarters have levels. */
  private parts(mb: number, there: number, kind: number): { pattern: number; cost: number } {
    const { grid, levels, told, rebuilder } = this
    const n = kind === kinds.eight ? 8 : 4
    const places = n === 8 ? places8 : places4
    const stride = grid.stride(mb, 0)
    const qp = rebuilder.qpOf(0, grid.qps[mb]!)
    const penalty = penalties[qp]!
    let [pattern, total] = [0, 0]
    grid.kind[mb] = kind
    for (let i = 0; i < 16; i += n === 8 ? 4 : 1) {
      const block = blockOrder[i]!
      const at = grid.at(mb, 0) + (block >> 2) * 4 * stride + (block & 3) * 4
      const has = n === 8 ? there8(i >> 2, there) : there4(block, there)
      blockValues(this.values, grid.surface.planes[0], at, stride, n, has, (rebuilder.most + 1) >> 1)
      this.wantBlock(at, stride, n)
      const likely = grid.likelyMode(mb, there, block)
      const { mode, cost } = this.pick(
        possibleBlock[has]!,
        (m) => this.blockDifference(places[m]!) + (m === likely ? 0 : penalty),
      )
      total += cost
      told[i] = mode
      told[16 + i] = likely
      grid.setMode(mb, kind, block, mode)
      const c = levels.blocks.subarray(n === 8 ? i * 16 : block * 16, n === 8 ? i * 16 + 64 : block * 16 + 16)
      const place = places[mode]!
      for (let k = 0; k < n * n; k++) {
        this.predicted[k] = this.values[place[k]!]!
        c[k] = this.wanted[k]! - this.predicted[k]!
      }
      if (n === 8) forward8(c)
      else forward4(c)
      if (n === 8 ? quantise8(c, qp) : quantise4(c, qp, 0)) pattern |= 1 << (i >> 2)
      const work = this.work.blocks.subarray(0, n * n)
      work.set(c)
      if (n === 8) rebuilder.add8(grid, mb, at, this.predicted, work)
      else rebuilder.add4(grid, mb, at, this.predicted, work)
    }
    return { pattern, cost: total }
  }

  private wantBlock(at: number, stride: number, n: number): void {
    const from = this.source.planes[0]
    for (let y = 0, i = 0, p = at; y < n; y++, p += stride) for (let x = 0; x < n; x++) this.wanted[i++] = from[p + x]!
  }

  private blockDifference(places: Uint8Array): number {
    const { wanted, values } = this
    let sum = 0
    for (let i = 0; i < places.length; i++) {
      const d = wanted[i]! - values[places[i]!]!
      sum += d < 0 ? -d : d
    }
    return sum
  }

  private writeParts(mb: number, there: number, kind: number, pattern: number): void {
    const { grid, levels, told, out } = this
    const chroma = this.chroma(mb, there)
    const eight = kind === kinds.eight
    out.type(0, mb, there)
    out.eight(eight, mb, there)
    for (let i = 0; i < 16; i += eight ? 4 : 1) out.mode(told[i]!, told[16 + i]!)
    out.chromaMode(chroma.mode, mb, there)
    out.pattern(pattern | (chroma.pattern << 4), mb, there)
    if (pattern | chroma.pattern) this.writeQp(mb)
    else grid.qps[mb] = this.qp
    for (let i = 0; i < 16; i += eight ? 4 : 1) {
      if (((pattern >> (i >> 2)) & 1) === 0) continue
      const block = blockOrder[i]!
      const from = eight ? i * 16 : block * 16
      const c = levels.blocks.subarray(from, from + (eight ? 64 : 16))
      if (eight) out.luma8(c, mb, there, i >> 2)
      else out.luma4(c, 16, mb, there, block)
    }
    this.writeChroma(mb, there, chroma.pattern)
  }

  /** The difference to the QP before, which goes round (7.4.5). */
  private writeQp(mb: number): void {
    const { extra } = this.rebuilder
    const qp = this.grid.qps[mb]!
    let delta = qp - this.qp
    if (delta > 25 + extra / 2) delta -= 52 + extra
    if (delta < -26 - extra / 2) delta += 52 + extra
    this.out.qpDelta(delta)
    this.qp = qp
  }

  private writeWhole(mb: number, there: number, mode: number): void {
    const { grid, levels, work, rebuilder, out } = this
    const qp = rebuilder.qpOf(0, grid.qps[mb]!)
    grid.kind[mb] = kinds.whole
    grid.modes.fill(2, mb * 16, mb * 16 + 16)
    this.want(mb, 0, 16, 16)
    predict16(this.predicted, mode, grid.surface.planes[0], grid.at(mb, 0), grid.stride(mb, 0), there, rebuilder.most)
    let coded = false
    for (let block = 0; block < 16; block++) {
      const c = levels.blocks.subarray(block * 16, block * 16 + 16)
      const from = (block >> 2) * 64 + (block & 3) * 4
      for (let k = 0; k < 16; k++) {
        const at = from + (k >> 2) * 16 + (k & 3)
        c[k] = this.wanted[at]! - this.predicted[at]!
      }
      forward4(c)
      levels.lumaDc[block] = c[0]!
      c[0] = 0
      if (quantise4(c, qp, 1)) coded = true
    }
    lumaDc(levels.lumaDc)
    for (let i = 0; i < 16; i++) levels.lumaDc[i] = levels.lumaDc[i]! >> 1
    quantiseDc(levels.lumaDc, 16, qp)
    work.blocks.set(levels.blocks)
    work.lumaDc.set(levels.lumaDc)
    rebuilder.luma16(grid, mb, there, mode, work)
    const chroma = this.chroma(mb, there)
    out.type(1 + mode + 4 * chroma.pattern + (coded ? 12 : 0), mb, there)
    out.chromaMode(chroma.mode, mb, there)
    this.writeQp(mb)
    out.lumaDc(levels.lumaDc, mb, there)
    for (let i = 0; coded && i < 16; i++) {
      const block = blockOrder[i]!
      out.luma4(levels.blocks.subarray(block * 16, block * 16 + 16), 15, mb, there, block)
    }
    this.writeChroma(mb, there, chroma.pattern)
  }

  /** Predicts, transforms and rebuilds chroma; gives the mode, and what of it has levels: nothing, DCs, all. */
  private chroma(mb: number, there: number): { mode: number; pattern: number } {
    const { grid, levels, work, rebuilder } = this
    const lines = grid.chromaLines
    const predict = (plane: number, mode: number) => {
      this.want(mb, plane, 8, lines)
      const [at, stride] = [grid.at(mb, plane), grid.stride(mb, plane)]
      const samples = grid.surface.planes[plane]!
      predictChroma(this.predicted, mode, samples, at, stride, lines, there, rebuilder.most)
    }
    const { mode } = this.pick(possibleChroma[there & all]!, (m) => {
      predict(1, m)
      const cb = this.difference(8 * lines)
      predict(2, m)
      return cb + this.difference(8 * lines)
    })
    let pattern = 0
    for (const plane of [1, 2]) {
      predict(plane, mode)
      const qp = rebuilder.qpOf(plane, grid.qps[mb]!)
      const dc = levels.chromaDc[plane - 1]!
      for (let block = 0; block < lines >> 1; block++) {
        const first = 256 + (plane - 1) * 128 + block * 16
        const c = levels.blocks.subarray(first, first + 16)
        const from = (block >> 1) * 32 + (block & 1) * 4
        for (let k = 0; k < 16; k++) {
          const at = from + (k >> 2) * 8 + (k & 3)
          c[k] = this.wanted[at]! - this.predicted[at]!
        }
        forward4(c)
        dc[block] = c[0]!
        c[0] = 0
        if (this.plain) c.fill(0)
        else if (quantise4(c, qp, 1)) pattern = 2
      }
      chromaDc(dc, lines >> 2)
      if (quantiseDc(dc, lines >> 1, lines === 16 ? qp + 3 : qp)) pattern = Math.max(pattern, 1)
      const from = 256 + (plane - 1) * 128
      work.blocks.set(levels.blocks.subarray(from, from + 128), from)
      work.chromaDc[plane - 1]!.set(dc)
      rebuilder.chroma(grid, mb, there, mode, plane, work)
    }
    return { mode, pattern }
  }

  private writeChroma(mb: number, there: number, pattern: number): void {
    const { grid, levels, out } = this
    const blocks = grid.chromaLines >> 1
    if (pattern === 0) return
    levels.chromaDc.forEach((dc, plane) => out.chromaDc(dc, plane, mb, there))
    if (pattern === 1) return
    for (let plane = 0; plane < 2; plane++)
      for (let i = 0; i < blocks; i++) {
        const from = 256 + plane * 128 + i * 16
        out.chroma4(levels.blocks.subarray(from, from + 16), mb, there, 16 + plane * 8 + i)
      }
  }

  /** A macroblock of plain samples (I_PCM). */
  private raw(mb: number, there: number): void {
    const { grid, out, w } = this
    out.type(25, mb, there)
    out.plain(mb)
    for (let plane = 0; plane < 3; plane++) {
      const [width, lines] = plane === 0 ? [16, 16] : [8, grid.chromaLines]
      const stride = grid.stride(mb, plane)
      for (let y = 0, at = grid.at(mb, plane); y < lines; y++, at += stride)
        for (let x = 0; x < width; x++) {
          const v = this.source.planes[plane]![at + x]!
          w.u(this.depth, v)
          grid.surface.planes[plane]![at + x] = v
        }
    }
    out.resume()
    grid.kind[mb] = kinds.raw
    grid.qps[mb] = this.qp
    grid.modes.fill(2, mb * 16, mb * 16 + 16)
    grid.counts.fill(16, mb * 32, mb * 32 + 32)
  }
}
