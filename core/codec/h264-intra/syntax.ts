import { patternCodes, patterns } from './codes'
import { blockOrder, type Grid } from './grid'
import { dcOrder } from './rebuild'
import { dc420, dc422, type SliceReader, type SliceWriter } from './slicebits'

/** The elements of macroblocks of a slice (7.3.5), however they are coded; `mb` and `there` as in {@link Grid}. */
export interface MacroblockReader {
  /** Whether a pair is of fields (mb_field_decoding_flag), told how many of those beside it are. */
  pair(fieldsBeside: number): boolean
  /** 0 predicted by blocks, 1 … 24 as a whole, 25 plain samples (table 7-11). */
  type(mb: number, there: number): number
  /** transform_size_8x8_flag. */
  eight(mb: number, there: number): boolean
  /** The mode of a block that is told against a likely one. */
  mode(likely: number): number
  chromaMode(mb: number, there: number): number
  /** What is coded: a bit for each quarter of luma, and 0 … 2 for chroma from bit 4 on. */
  pattern(mb: number, there: number): number
  qpDelta(): number
  /** Sixteen levels of luma's DCs. */
  lumaDc(out: Int32Array, mb: number, there: number): void
  /** A 4×4 block of luma, of sixteen levels or of fifteen behind its DC. */
  luma4(out: Int32Array, most: 15 | 16, mb: number, there: number, block: number): void
  /** An 8×8 block of luma, 0 … 3, of 64 levels. */
  luma8(out: Int32Array, mb: number, there: number, quarter: number): void
  /** DCs of a plane of chroma, 0 or 1. */
  chromaDc(out: Int32Array, plane: number, mb: number, there: number): void
  /** Fifteen levels of a block of chroma, 16 … 31 as in {@link Grid}. */
  chroma4(out: Int32Array, mb: number, there: number, block: number): void
  /** Told of a macroblock before its samples follow plainly, and after they were read. */
  plain(mb: number): void
  resume(): void
  /** Whether another macroblock follows. */
  more(): boolean
}

/** The same, written. */
export interface MacroblockWriter {
  pair(ofFields: boolean, fieldsBeside: number): void
  type(type: number, mb: number, there: number): void
  eight(eight: boolean, mb: number, there: number): void
  mode(mode: number, likely: number): void
  chromaMode(mode: number, mb: number, there: number): void
  pattern(pattern: number, mb: number, there: number): void
  qpDelta(delta: number): void
  lumaDc(levels: Int32Array, mb: number, there: number): void
  luma4(levels: Int32Array, most: 15 | 16, mb: number, there: number, block: number): void
  luma8(levels: Int32Array, mb: number, there: number, quarter: number): void
  chromaDc(levels: Int32Array, plane: number, mb: number, there: number): void
  chroma4(levels: Int32Array, mb: number, there: number, block: number): void
  plain(mb: number): void
  resume(): void
  more(more: boolean): void
}

/** Reads macroblocks by variable lengths (CAVLC, 9.2). */
export class CavlcReader implements MacroblockReader {
  constructor(
    private readonly r: SliceReader,
    private readonly grid: Grid,
  ) {}

  pair(): boolean {
    return this.r.u(1) === 1
  }

  type(): number {
    return this.r.ue()
  }

  eight(): boolean {
    return this.r.u(1) === 1
  }

  mode(likely: number): number {
    if (this.r.u(1)) return likely
    const mode = this.r.u(3)
    return mode >= likely ? mode + 1 : mode
  }

  chromaMode(): number {
    return this.r.ue()
  }

  pattern(): number {
    const code = this.r.ue()
    if (code > 47) this.r.fault('coded_block_pattern')
    return patterns[code]!
  }

  qpDelta(): number {
    return this.r.se()
  }

  lumaDc(out: Int32Array, mb: number, there: number): void {
    this.r.block(out, this.grid.scan(mb).four, 0, 16, this.grid.lumaContext(mb, there, 0))
  }

  luma4(out: Int32Array, most: 15 | 16, mb: number, there: number, block: number): void {
    const nc = this.grid.lumaContext(mb, there, block)
    this.grid.counts[mb * 32 + block] = this.r.block(out, this.grid.scan(mb).four, 16 - most, most, nc)
  }

  luma8(out: Int32Array, mb: number, there: number, quarter: number): void {
    for (let i = 0; i < 4; i++) {
      const block = blockOrder[quarter * 4 + i]!
      const nc = this.grid.lumaContext(mb, there, block)
      this.grid.counts[mb * 32 + block] = this.r.block(out, this.grid.scan(mb).eight[i]!, 0, 16, nc)
    }
  }

  chromaDc(out: Int32Array): void {
    const lines = this.grid.chromaLines as 8 | 16
    this.r.block(out, dcOrder[lines], 0, lines >> 1, lines === 8 ? dc420 : dc422)
  }

  chroma4(out: Int32Array, mb: number, there: number, block: number): void {
    const nc = this.grid.chromaContext(mb, there, block)
    this.grid.counts[mb * 32 + block] = this.r.block(out, this.grid.scan(mb).four, 1, 15, nc)
  }

  plain(): void {
    this.r.align()
  }

  resume(): void {
    // what follows begins where the samples end
  }

  more(): boolean {
    return this.r.more()
  }
}

/** Writes macroblocks by variable lengths (CAVLC, 9.2). */
export class CavlcWriter implements MacroblockWriter {
  constructor(
    private readonly w: SliceWriter,
    private readonly grid: Grid,
  ) {}

  pair(ofFields: boolean): void {
    this.w.u(1, ofFields ? 1 : 0)
  }

  type(type: number): void {
    this.w.ue(type)
  }

  eight(eight: boolean): void {
    this.w.u(1, eight ? 1 : 0)
  }

  mode(mode: number, likely: number): void {
    if (mode === likely) this.w.u(1, 1)
    else this.w.u(4, mode < likely ? mode : mode - 1)
  }

  chromaMode(mode: number): void {
    this.w.ue(mode)
  }

  pattern(pattern: number): void {
    this.w.ue(patternCodes[pattern]!)
  }

  qpDelta(delta: number): void {
    this.w.se(delta)
  }

  lumaDc(levels: Int32Array, mb: number, there: number): void {
    this.w.block(levels, this.grid.scan(mb).four, 0, 16, this.grid.lumaContext(mb, there, 0))
  }

  luma4(levels: Int32Array, most: 15 | 16, mb: number, there: number, block: number): void {
    const nc = this.grid.lumaContext(mb, there, block)
    this.grid.counts[mb * 32 + block] = this.w.block(levels, this.grid.scan(mb).four, 16 - most, most, nc)
  }

  luma8(levels: Int32Array, mb: number, there: number, quarter: number): void {
    for (let i = 0; i < 4; i++) {
      const block = blockOrder[quarter * 4 + i]!
      const nc = this.grid.lumaContext(mb, there, block)
      this.grid.counts[mb * 32 + block] = this.w.block(levels, this.grid.scan(mb).eight[i]!, 0, 16, nc)
    }
  }

  chromaDc(levels: Int32Array): void {
    const lines = this.grid.chromaLines as 8 | 16
    this.w.block(levels, dcOrder[lines], 0, lines >> 1, lines === 8 ? dc420 : dc422)
  }

  chroma4(levels: Int32Array, mb: number, there: number, block: number): void {
    const nc = this.grid.chromaContext(mb, there, block)
    this.grid.counts[mb * 32 + block] = this.w.block(levels, this.grid.scan(mb).four, 1, 15, nc)
  }

  plain(): void {
    this.w.align()
  }

  resume(): void {
    // what follows begins where the samples end
  }

  more(): void {
    // a slice ends where its bits do
  }
}
