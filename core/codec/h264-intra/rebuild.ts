import { there4, there8, type Grid } from './grid'
import { blockValues, places4, places8, predict16, predictChroma } from './predict'
import {
  add4,
  add8,
  chromaDc,
  chromaQp,
  dequantise4,
  dequantise8,
  dequantiseChromaDc,
  dequantiseLumaDc,
  lumaDc,
  scales4,
  scales8,
  type Weights,
} from './transform'

/** The levels of a macroblock as they are coded, and the DCs of blocks that have theirs apart. */
export class Levels {
  /** Sixteen for each 4×4 block of luma, line by line, or 64 for each 8×8 block; then of Cb and Cr from 256 on. */
  readonly blocks = new Int32Array(512)
  readonly lumaDc = new Int32Array(16)
  readonly chromaDc = [new Int32Array(8), new Int32Array(8)] as const

  clear(): void {
    this.blocks.fill(0)
    this.lumaDc.fill(0)
    this.chromaDc[0].fill(0)
    this.chromaDc[1].fill(0)
  }
}

/** Makes samples out of prediction and levels (ITU-T H.264 8.3 and 8.5): the same for who writes and who reads. */
export class Rebuilder {
  private readonly values = new Int32Array(128)
  private readonly predicted = new Int32Array(256)
  private readonly four: readonly Int32Array[][]
  private readonly eight: readonly Int32Array[]
  /** The highest code. */
  readonly most: number
  /** What the depth adds to QPs. */
  readonly extra: number

  constructor(
    readonly depth: number,
    weights: Weights,
    private readonly offsets: readonly [number, number],
  ) {
    this.most = (1 << depth) - 1
    this.extra = 6 * (depth - 8)
    this.four = weights.four.map(scales4)
    this.eight = scales8(weights.eight)
  }

  /** QP′ of luma, or of a chroma plane. */
  qpOf(plane: number, qp: number): number {
    return plane === 0 ? qp + this.extra : chromaQp(qp, this.offsets[plane - 1]!, this.extra)
  }

  luma4(grid: Grid, mb: number, there: number, block: number, mode: number, levels: Int32Array): void {
    const stride = grid.stride(mb, 0)
    const plane = grid.surface.planes[0]
    const at = grid.at(mb, 0) + (block >> 2) * 4 * stride + (block & 3) * 4
    blockValues(this.values, plane, at, stride, 4, there4(block, there), (this.most + 1) >> 1)
    const places = places4[mode]!
    for (let i = 0; i < 16; i++) this.predicted[i] = this.values[places[i]!]!
    this.add4(grid, mb, at, this.predicted, levels)
  }

  /** Adds the levels of a 4×4 block of luma to its prediction. */
  add4(grid: Grid, mb: number, at: number, predicted: Int32Array, levels: Int32Array): void {
    const qp = this.qpOf(0, grid.qps[mb]!)
    dequantise4(levels, this.four[0]![qp % 6]!, Math.floor(qp / 6), 0)
    add4(levels, predicted, 0, 4, grid.surface.planes[0], at, grid.stride(mb, 0), this.most)
  }

  luma8(grid: Grid, mb: number, there: number, block: number, mode: number, levels: Int32Array): void {
    const stride = grid.stride(mb, 0)
    const plane = grid.surface.planes[0]
    const at = grid.at(mb, 0) + (block >> 1) * 8 * stride + (block & 1) * 8
    blockValues(this.values, plane, at, stride, 8, there8(block, there), (this.most + 1) >> 1)
    const places = places8[mode]!
    for (let i = 0; i < 64; i++) this.predicted[i] = this.values[places[i]!]!
    this.add8(grid, mb, at, this.predicted, levels)
  }

  /** Adds the levels of an 8×8 block of luma to its prediction. */
  add8(grid: Grid, mb: number, at: number, predicted: Int32Array, levels: Int32Array): void {
    const qp = this.qpOf(0, grid.qps[mb]!)
    dequantise8(levels, this.eight[qp % 6]!, Math.floor(qp / 6))
    add8(levels, predicted, grid.surface.planes[0], at, grid.stride(mb, 0), this.most)
  }

  luma16(grid: Grid, mb: number, there: number, mode: number, levels: Levels): void {
    const stride = grid.stride(mb, 0)
    const plane = grid.surface.planes[0]
    const at = grid.at(mb, 0)
    predict16(this.predicted, mode, plane, at, stride, there, this.most)
    const qp = this.qpOf(0, grid.qps[mb]!)
    const scale = this.four[0]![qp % 6]!
    const per = Math.floor(qp / 6)
    lumaDc(levels.lumaDc)
    dequantiseLumaDc(levels.lumaDc, scale[0]!, per)
    for (let block = 0; block < 16; block++) {
      const c = levels.blocks.subarray(block * 16, block * 16 + 16)
      dequantise4(c, scale, per, 1)
      c[0] = levels.lumaDc[block]!
      const [x, y] = [(block & 3) * 4, (block >> 2) * 4]
      add4(c, this.predicted, y * 16 + x, 16, plane, at + y * stride + x, stride, this.most)
    }
  }

  /** A chroma plane, 1 or 2. */
  chroma(grid: Grid, mb: number, there: number, mode: number, which: number, levels: Levels): void {
    const stride = grid.stride(mb, which)
    const plane = grid.surface.planes[which]!
    const at = grid.at(mb, which)
    const lines = grid.chromaLines
    predictChroma(this.predicted, mode, plane, at, stride, lines, there, this.most)
    const qp = this.qpOf(which, grid.qps[mb]!)
    const scales = this.four[which]!
    const dc = levels.chromaDc[which - 1]!
    const dcQp = lines === 16 ? qp + 3 : qp
    chromaDc(dc, lines >> 2)
    dequantiseChromaDc(dc, lines >> 2, scales[dcQp % 6]![0]!, Math.floor(dcQp / 6))
    const per = Math.floor(qp / 6)
    for (let block = 0; block < lines >> 1; block++) {
      const from = 256 + (which - 1) * 128 + block * 16
      const c = levels.blocks.subarray(from, from + 16)
      dequantise4(c, scales[qp % 6]!, per, 1)
      c[0] = dc[block]!
      const [x, y] = [(block & 1) * 4, (block >> 1) * 4]
      add4(c, this.predicted, y * 8 + x, 8, plane, at + y * stride + x, stride, this.most)
    }
  }
}

/** Where the levels of chroma DCs stand among the blocks of a plane, in the order they are coded (8.5.11.1). */
export const dcOrder = { 8: Uint8Array.of(0, 1, 2, 3), 16: Uint8Array.of(0, 2, 1, 4, 6, 3, 5, 7) } as const
