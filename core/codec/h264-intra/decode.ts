import { unescapeNal } from '../../bits'
import { emptyPicture, type Picture, type Plane } from '../../picture/picture'
import { kernel } from '../../kernel/kernel'
import { CabacDecoder } from './cabac'
import { CabacReader } from './cabacreader'
import { deblock } from './deblock'
import { KernelDecoder } from './fastdecode'
import { blockOrder, Grid, kinds, surfaceOf, there4, there8, type Surface } from './grid'
import { PairGrid } from './pairs'
import { readPictureSet, readSequence, readSliceHeader } from './parameters'
import type { PictureSet, Sequence, SliceHeader } from './parameters'
import { chroma as chromaModes, hasAbove, hasCorner, hasLeft, large, needs } from './predict'
import { Levels, Rebuilder } from './rebuild'
import { SliceFault, SliceReader } from './slicebits'
import { CavlcReader, type MacroblockReader } from './syntax'

/** A frame or one field of it, and how it is decoded. */
interface Part {
  readonly grid: Grid
  readonly headers: SliceHeader[]
  readonly set: PictureSet
  readonly fast: KernelDecoder | null
}

/** A picture that is being put together of slices: a frame, or one or both fields of it. */
interface Frame {
  readonly sequence: Sequence
  readonly surface: Surface
  readonly parts: Map<SliceHeader['field'], Part>
  last: Part | null
}

type ReaderOf = (r: SliceReader, grid: Grid, header: SliceHeader, set: PictureSet) => MacroblockReader

/** Reads macroblocks as their picture's parameter set says that they are coded. */
const macroblockReader: ReaderOf = (r, grid, header, { cabac }) =>
  cabac ? new CabacReader(grid, new CabacDecoder(r, header.qp)) : new CavlcReader(r, grid)

/**
 * Decodes intra pictures of H.264: 8 and 10 bit, 4:2:0 and 4:2:2, CAVLC and CABAC; whole frames, fields, and frames
 * whose pairs of macroblocks are of either.
 */
export class IntraDecoder {
  private readonly sequences = new Map<number, Sequence>()
  private readonly sets = new Map<number, PictureSet>()
  private readonly levels = new Levels()
  private surface: Surface | null = null
  private like = ''

  /** `plain` leaves the kernel out; a test may read macroblocks in a way of its own. */
  constructor(
    private readonly plain = false,
    private readonly readerOf: ReaderOf = macroblockReader,
  ) {}

  /** Decodes the NAL units of one access unit. Throws a {@link SliceFault} where they make no sense. */
  decode(nals: readonly Uint8Array[]): Picture {
    let frame: Frame | null = null
    for (const nal of nals) {
      const type = nal[0]! & 31
      if (type === 7) {
        const s = readSequence(nal)
        this.sequences.set(s.id, s)
      } else if (type === 8) {
        const p = readPictureSet(nal, (id) => this.sequences.get(id))
        this.sets.set(p.id, p)
      } else if (type === 1 || type === 5) frame = this.slice(nal, type, frame)
    }
    if (!frame) throw new SliceFault('an access unit without a slice', 0)
    return this.finish(frame)
  }

  private slice(nal: Uint8Array, type: number, begun: Frame | null): Frame {
    const r = new SliceReader(unescapeNal(nal.subarray(1)))
    const header = readSliceHeader(r, type, (nal[0]! & 0x60) !== 0, {
      picture: (id) => this.sets.get(id),
      sequence: (id) => this.sequences.get(id),
    })
    const set = this.sets.get(header.set)!
    const sequence = this.sequences.get(set.sequence)!
    const frame = begun ?? { sequence, surface: this.room(sequence), parts: new Map(), last: null }
    const part = frame.parts.get(header.field) ?? this.begin(frame, header.field, set)
    if (part !== frame.last || part.set !== set) r.fault('a slice that belongs to another picture')
    part.headers.push(header)
    const number = part.headers.length
    if (part.fast) part.fast.slice(r, header, number)
    else {
      const reader = this.readerOf(r, part.grid, header, set)
      new SliceDecoder(r, reader, part.grid, header, number, set, sequence, this.levels).run()
    }
    return frame
  }

  private begin(frame: Frame, field: SliceHeader['field'], set: PictureSet): Part {
    const { sequence } = frame
    const height = field === 'frame' ? sequence.height : sequence.height >> 1
    const number = field === 'frame' ? 0 : field === 'top' ? 1 : 2
    const { width, chroma } = sequence
    const pairs = sequence.adaptive && field === 'frame'
    const grid = pairs
      ? new PairGrid(frame.surface, width, height, chroma)
      : new Grid(frame.surface, width, height, chroma, number)
    const loops = this.plain ? null : kernel()
    const fast = loops && new KernelDecoder(loops, grid, sequence, set, field)
    frame.last?.fast?.keep()
    const part: Part = { grid, headers: [], set, fast }
    frame.parts.set(field, part)
    frame.last = part
    return part
  }

  private room(s: Sequence): Surface {
    const like = `${s.width} ${s.height} ${s.chroma}`
    if (!this.surface || this.like !== like) this.surface = surfaceOf(s.width, s.height, s.chroma)
    this.like = like
    return this.surface
  }

  private finish({ sequence, surface, parts, last }: Frame): Picture {
    last?.fast?.keep()
    last?.fast?.keepSamples()
    const fields = parts.has('frame') ? ['frame'] : ['top', 'bottom']
    for (const field of fields) {
      const part = parts.get(field as SliceHeader['field'])
      const missing = part ? part.grid.slices.indexOf(0) : 0
      if (!part || missing >= 0) throw new SliceFault(`macroblock ${missing} of the ${field} that is missing`, 0)
      const { grid, headers, set } = part
      const rebuilder = new Rebuilder(sequence.depth, set.weights, set.chromaOffsets)
      const qpOf = (plane: number, qp: number) => rebuilder.qpOf(plane, qp) - rebuilder.extra
      const filterOf = (mb: number) => headers[grid.slices[mb]! - 1]!.deblocking
      deblock(grid, sequence.depth, filterOf, qpOf)
    }
    return cropped(sequence, surface)
  }
}

/** The samples of a surface that are shown. */
function cropped(s: Sequence, surface: Surface): Picture {
  const [left, right, top, bottom] = s.crop
  const width = s.width * 16 - left - right
  const height = s.height * 16 - top - bottom
  const out = emptyPicture(width, height, s.chroma === 1 ? '4:2:0' : '4:2:2', s.depth === 8 ? 8 : 10)
  const vertical = s.chroma === 1 ? 2 : 1
  out.planes.forEach((to: Plane, i) => {
    const from = surface.planes[i]!
    const stride = surface.strides[i]!
    const [w, h] = i === 0 ? [width, height] : [(width + 1) >> 1, vertical === 2 ? (height + 1) >> 1 : height]
    const [x, y] = i === 0 ? [left, top] : [left >> 1, top / vertical]
    for (let line = 0; line < h; line++) {
      const at = (y + line) * stride + x
      to.set(from.subarray(at, at + w), line * w)
    }
  })
  return out
}

/** Decodes the macroblocks of one slice. */
class SliceDecoder {
  private readonly rebuilder: Rebuilder
  private qp: number

  constructor(
    private readonly r: SliceReader,
    private readonly reader: MacroblockReader,
    private readonly grid: Grid,
    private readonly header: SliceHeader,
    private readonly number: number,
    private readonly set: PictureSet,
    private readonly sequence: Sequence,
    private readonly levels: Levels,
  ) {
    this.rebuilder = new Rebuilder(sequence.depth, set.weights, set.chromaOffsets)
    this.qp = header.qp
  }

  run(): void {
    const { grid, r } = this
    const pairs = grid instanceof PairGrid ? grid : null
    let mb = this.header.first * (pairs ? 2 : 1)
    for (;;) {
      if (mb >= grid.count) r.fault('a macroblock beyond the picture')
      if (grid.slices[mb] !== 0) r.fault('a macroblock that is there already')
      grid.slices[mb] = this.number
      const upper = pairs !== null && mb % 2 === 0
      if (upper) pairs.setPair(mb, this.reader.pair(pairs.fieldsBeside(mb)))
      this.macroblock(mb)
      if (r.over) r.fault('a macroblock that breaks off')
      mb++
      if (!upper && !this.reader.more()) return
    }
  }

  private macroblock(mb: number): void {
    const { r, reader, grid, levels } = this
    const there = grid.there(mb)
    const type = reader.type(mb, there)
    if (type > 25) r.fault('mb_type')
    if (type === 25) return this.raw(mb)
    levels.clear()
    if (type > 0) return this.whole(mb, there, type - 1)
    const eight = this.set.eight && reader.eight(mb, there)
    const kind = eight ? kinds.eight : kinds.four
    grid.kind[mb] = kind
    this.modes(mb, there, kind)
    const chroma = this.chromaMode(mb, there)
    const pattern = reader.pattern(mb, there)
    if (pattern > 0) this.readQp()
    grid.qps[mb] = this.qp
    this.readLuma(mb, there, kind, pattern & 15)
    this.readChroma(mb, there, pattern >> 4)
    for (let i = 0; i < 16; i++) {
      const block = blockOrder[i]!
      if (!eight) {
        const c = levels.blocks.subarray(block * 16, block * 16 + 16)
        this.rebuilder.luma4(grid, mb, there, block, grid.modes[mb * 16 + block]!, c)
      } else if (i % 4 === 0) {
        const c = levels.blocks.subarray(i * 16, i * 16 + 64)
        this.rebuilder.luma8(grid, mb, there, i >> 2, grid.modes[mb * 16 + block]!, c)
      }
    }
    this.rebuildChroma(mb, there, chroma)
  }

  /** How each block is predicted (8.3.1.1); a mode whose neighbours are missing is a fault. */
  private modes(mb: number, there: number, kind: number): void {
    const { r, grid } = this
    const step = kind === kinds.eight ? 4 : 1
    for (let i = 0; i < 16; i += step) {
      const block = blockOrder[i]!
      const mode = this.reader.mode(grid.likelyMode(mb, there, block))
      const has = kind === kinds.eight ? there8(i >> 2, there) : there4(block, there)
      if ((needs[mode]! & ~has) !== 0) r.fault('a prediction mode')
      grid.setMode(mb, kind, block, mode)
    }
  }

  private chromaMode(mb: number, there: number): number {
    const mode = this.reader.chromaMode(mb, there)
    const all = hasLeft | hasAbove | hasCorner
    const need =
      mode === chromaModes.horizontal ? hasLeft : mode === chromaModes.vertical ? hasAbove : mode === 0 ? 0 : all
    if (mode > 3 || (need & ~there) !== 0) this.r.fault('intra_chroma_pred_mode')
    return mode
  }

  private readQp(): void {
    const { extra } = this.rebuilder
    const delta = this.reader.qpDelta()
    if (Math.abs(delta) > 26 + extra / 2) this.r.fault('mb_qp_delta')
    this.qp = ((this.qp + delta + 52 + 2 * extra) % (52 + extra)) - extra
  }

  /** A macroblock predicted as a whole: its type says the mode and what is coded (table 7-11). */
  private whole(mb: number, there: number, type: number): void {
    const { r, reader, grid, levels } = this
    const mode = type % 4
    const all = hasLeft | hasAbove | hasCorner
    const need = mode === large.vertical ? hasAbove : mode === large.horizontal ? hasLeft : mode === large.dc ? 0 : all
    if ((need & ~there) !== 0) r.fault('mb_type')
    grid.kind[mb] = kinds.whole
    grid.modes.fill(2, mb * 16, mb * 16 + 16)
    const chroma = this.chromaMode(mb, there)
    this.readQp()
    grid.qps[mb] = this.qp
    reader.lumaDc(levels.lumaDc, mb, there)
    if (type >= 12) this.readLuma(mb, there, kinds.whole, 15)
    this.readChroma(mb, there, (type >> 2) % 3)
    this.rebuilder.luma16(grid, mb, there, mode, levels)
    this.rebuildChroma(mb, there, chroma)
  }

  /** Levels of luma, of those quarters whose bit is set; fifteen of a block where their DCs come apart. */
  private readLuma(mb: number, there: number, kind: number, pattern: number): void {
    const { reader, levels } = this
    const most = kind === kinds.whole ? 15 : 16
    for (let quarter = 0; quarter < 4; quarter++) {
      if (((pattern >> quarter) & 1) === 0) continue
      if (kind === kinds.eight)
        reader.luma8(levels.blocks.subarray(quarter * 64, quarter * 64 + 64), mb, there, quarter)
      else
        for (let i = 0; i < 4; i++) {
          const block = blockOrder[quarter * 4 + i]!
          reader.luma4(levels.blocks.subarray(block * 16, block * 16 + 16), most, mb, there, block)
        }
    }
  }

  /** Levels of chroma: none, DCs alone, or all. */
  private readChroma(mb: number, there: number, pattern: number): void {
    const { reader, grid, levels } = this
    if (pattern === 0) return
    levels.chromaDc.forEach((dc, plane) => reader.chromaDc(dc, plane, mb, there))
    if (pattern === 1) return
    for (let plane = 0; plane < 2; plane++)
      for (let i = 0; i < grid.chromaLines >> 1; i++) {
        const from = 256 + plane * 128 + i * 16
        reader.chroma4(levels.blocks.subarray(from, from + 16), mb, there, 16 + plane * 8 + i)
      }
  }

  private rebuildChroma(mb: number, there: number, mode: number): void {
    for (const plane of [1, 2]) this.rebuilder.chroma(this.grid, mb, there, mode, plane, this.levels)
  }

  /** A macroblock of plain samples (I_PCM). */
  private raw(mb: number): void {
    const { r, reader, grid } = this
    const { depth } = this.sequence
    reader.plain(mb)
    for (let plane = 0; plane < 3; plane++) {
      const [width, lines] = plane === 0 ? [16, 16] : [8, grid.chromaLines]
      const at = grid.at(mb, plane)
      for (let y = 0; y < lines; y++)
        for (let x = 0; x < width; x++) grid.surface.planes[plane]![at + y * grid.stride(mb, plane) + x] = r.u(depth)
    }
    reader.resume()
    grid.kind[mb] = kinds.raw
    grid.qps[mb] = this.qp
    grid.modes.fill(2, mb * 16, mb * 16 + 16)
    grid.counts.fill(16, mb * 32, mb * 32 + 32)
  }
}
