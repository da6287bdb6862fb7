import { Grid, ofSlice, sidesOf, type Surface } from './grid'
import { hasAbove, hasCorner, hasLeft } from './predict'

/**
 * The macroblocks of a frame that go by pairs, one above the other, each pair of frame lines or of fields
 * (macroblock-adaptive frames, ITU-T H.264 6.4.1). A macroblock's number is twice its pair's, one more of the lower one
 * or of that of the bottom field. Samples beside one are those beside it in the frame; what is known of macroblocks
 * is taken from where table 6-4 says.
 */
export class PairGrid extends Grid {
  /** Of each pair: 1 where it is of fields. */
  readonly fields: Uint8Array

  constructor(surface: Surface, width: number, height: number, chroma: number) {
    super(surface, width, height, chroma, 0)
    this.fields = new Uint8Array(this.count >> 1)
  }

  setPair(mb: number, ofFields: boolean): void {
    this.fields[mb >> 1] = ofFields ? 1 : 0
  }

  /** How many of the pairs at the left and above, of the same slice, are of fields. */
  fieldsBeside(mb: number): number {
    const pair = mb >> 1
    const there = this.pairsThere(pair)
    return (there & hasLeft ? this.fields[pair - 1]! : 0) + (there & hasAbove ? this.fields[pair - this.width]! : 0)
  }

  private pairsThere(pair: number): number {
    return ofSlice(sidesOf(pair, this.width), pair, this.width, (other) => this.slices[other * 2]!)
  }

  override ofField(mb: number): boolean {
    return this.fields[mb >> 1] === 1
  }

  override at(mb: number, plane: number): number {
    const pair = mb >> 1
    const x = pair % this.width
    const lines = plane === 0 ? 16 : this.chromaLines
    const line = ((pair - x) / this.width) * lines * 2 + (mb & 1) * (this.ofField(mb) ? 1 : lines)
    return line * this.surface.strides[plane]! + x * (plane === 0 ? 16 : 8)
  }

  override stride(mb: number, plane: number): number {
    return this.surface.strides[plane]! * (this.ofField(mb) ? 2 : 1)
  }

  override sides(mb: number): number {
    return this.ofMacroblock(mb, sidesOf(mb >> 1, this.width))
  }

  override there(mb: number): number {
    return this.ofMacroblock(mb, this.pairsThere(mb >> 1))
  }

  /** Which neighbours a macroblock has where its pair has these: the lower one has its upper one above, of frames. */
  private ofMacroblock(mb: number, pairs: number): number {
    if (!(mb & 1) || this.ofField(mb)) return pairs
    return hasAbove | (pairs & hasLeft ? hasLeft | hasCorner : 0)
  }

  override leftOf(mb: number, line: number, lines: number): number {
    const lower = mb & 1
    const left = mb - lower - 2
    if (this.ofField(left) === this.ofField(mb)) return (left + lower) * lines + line
    if (this.ofField(mb)) return left * lines + line * 2 + lower
    const inPair = line + lower * lines
    return (left + (inPair & 1)) * lines + (inPair >> 1)
  }

  override above(mb: number): number {
    const lower = mb & 1
    if (lower && !this.ofField(mb)) return mb - 1
    const above = mb - lower - this.width * 2
    return lower || !this.ofField(mb) || !this.ofField(above) ? above + 1 : above
  }
}
