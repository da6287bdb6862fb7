import { concatBytes } from '../../bytes'
import { chromaSize, type Picture } from '../../picture/picture'
import { kernel } from '../../kernel/kernel'
import { KernelEncoder } from './fast'
import { CabacEncoder, CabacWriter } from './cabacwriter'
import { Grid, surfaceOf, type Surface } from './grid'
import { MacroblockEncoder, type Chosen } from './macroblocks'
import { PairGrid } from './pairs'
import { SliceWriter } from './slicebits'
import { CavlcWriter, type MacroblockWriter } from './syntax'
import { delimiter, macroblocks, pictureSet, sequenceSet, sliceHeader, unit, type Format } from './write'

/** How a picture is encoded, besides its format. */
export interface Manner {
  /** Slices of each frame or field. */
  readonly slices: number
  /** The QP of each line of macroblocks, told what they took so far. */
  qp(line: number, bits: number): number
  /** Whether decoders smooth what they decode. */
  readonly filtered?: boolean
  /** Whether no more of chroma is kept than a mean for each block, where nothing else fits. */
  readonly plain?: boolean
  readonly chosen?: Chosen
  /** Whether the kernel is left out. */
  readonly slow?: boolean
  /** Whether what a decoder makes of the picture is kept in the encoder's surface. */
  readonly kept?: boolean
}

/** Encodes pictures of one format, each by itself, into access units of the byte stream (ITU-T H.264 Annex B). */
export class IntraEncoder {
  /** What a decoder makes of the picture that was encoded last, unfiltered, where it was kept. */
  readonly surface: Surface
  private readonly source: Surface
  private readonly parameters: Uint8Array
  private readonly mbs: { readonly width: number; readonly height: number }
  private loaded: number

  /** `first`: the number of the first picture that is loaded. */
  constructor(
    readonly format: Format,
    first = 0,
  ) {
    this.loaded = first - 1
    this.mbs = macroblocks(format)
    this.surface = surfaceOf(this.mbs.width, this.mbs.height, format.chroma)
    this.source = surfaceOf(this.mbs.width, this.mbs.height, format.chroma)
    this.parameters = concatBytes([delimiter, sequenceSet(format), pictureSet(format)])
  }

  /** The number of the picture that was loaded last. */
  get number(): number {
    return this.loaded
  }

  /** Lines of macroblocks of all that is coded of a frame. */
  get lines(): number {
    return this.mbs.height
  }

  /** Takes a picture of the format's size, depth and chroma; lines and columns beyond it are its last ones. */
  load(picture: Picture): void {
    this.loaded++
    const c = chromaSize(picture)
    picture.planes.forEach((from, i) => {
      const to = this.source.planes[i]!
      const stride = this.source.strides[i]!
      const [width, height] = i === 0 ? [picture.width, picture.height] : [c.width, c.height]
      const lines = to.length / stride
      for (let y = 0; y < lines; y++) {
        const line = Math.min(y, height - 1)
        to.set(from.subarray(line * width, line * width + width), y * stride)
        to.fill(from[line * width + width - 1]!, y * stride + width, y * stride + stride)
      }
    })
  }

  /** Encodes the picture that was loaded: an access unit, as long as it comes out. */
  encode(manner: Manner): Uint8Array {
    const { fields } = this.format
    const parts = [this.parameters]
    const order = fields === null ? [0] : fields === 'top' ? [1, 2] : [2, 1]
    const told = { bits: this.parameters.length * 8, line: 0 }
    order.forEach((field, n) => this.part(parts, field, n === 1, manner, told))
    return concatBytes(parts)
  }

  private part(
    parts: Uint8Array[],
    field: number,
    second: boolean,
    manner: Manner,
    told: { bits: number; line: number },
  ): void {
    const { format, mbs } = this
    const height = field || format.adaptive ? mbs.height >> 1 : mbs.height
    const slices = Math.min(manner.slices, height)
    const coder = this.coder(field, height, slices, manner)
    const w = new SliceWriter()
    for (let slice = 0; slice < slices; slice++) {
      const [from, to] = [slice, slice + 1].map((n) => Math.floor((n * height) / slices)) as [number, number]
      let qp = manner.qp(told.line, told.bits)
      const filtered = manner.filtered ?? false
      sliceHeader(w, format, { first: from * mbs.width, field, second, qp, picture: this.loaded, filtered })
      coder.begin(w, qp, manner.plain ?? false)
      let bits = w.length
      for (let line = from; line < to; line++, told.line++) {
        if (line > from) qp = manner.qp(told.line, told.bits + bits)
        bits = coder.line(line, qp)
      }
      const nal = unit(second ? 0x61 : 0x65, coder.end(w))
      told.bits += nal.length * 8
      parts.push(nal)
    }
    if (manner.kept) coder.keep()
  }

  /** The kernel's way where there is one; a test may ask for the plain one. */
  private coder(field: number, height: number, slices: number, manner: Manner): LineCoder {
    const { format, mbs, surface, source } = this
    const fast = manner.chosen || manner.slow || format.adaptive ? null : kernel()
    const { depth, chroma, arithmetic } = format
    const shape = { width: mbs.width, height, slices }
    if (fast) return new KernelEncoder(fast, surface, source, shape, { depth, chroma, arithmetic, field })
    const grid = format.adaptive
      ? new PairGrid(surface, mbs.width, mbs.height, chroma)
      : new Grid(surface, mbs.width, height, chroma, field)
    return new PlainEncoder(new MacroblockEncoder(grid, source, depth, manner.chosen), grid, manner.chosen, (w, qp) =>
      arithmetic ? new CabacWriter(new CabacEncoder(w, qp), grid) : new CavlcWriter(w, grid),
    )
  }
}

/** Encodes lines of macroblocks of a picture, slice by slice. */
interface LineCoder {
  begin(w: SliceWriter, qp: number, plain: boolean): void
  line(line: number, qp: number): number
  end(w: SliceWriter): Uint8Array
  keep(): void
}

class PlainEncoder implements LineCoder {
  private slice = 0
  private w = new SliceWriter()
  private out!: MacroblockWriter
  /** The first macroblock of the slice. */
  private first: number | null = null

  constructor(
    private readonly mb: MacroblockEncoder,
    private readonly grid: Grid,
    private readonly chosen: Chosen | undefined,
    private readonly writer: (w: SliceWriter, qp: number) => MacroblockWriter,
  ) {}

  begin(w: SliceWriter, qp: number, plain: boolean): void {
    this.w = w
    this.out = this.writer(w, qp)
    this.first = null
    this.slice++
    this.mb.begin(w, this.out, qp, plain)
  }

  line(line: number, qp: number): number {
    const { grid } = this
    const pairs = grid instanceof PairGrid ? grid : null
    const width = pairs ? grid.width * 2 : grid.width
    for (let mb = line * width; mb < (line + 1) * width; mb++) {
      this.first ??= mb
      const lower = pairs !== null && mb % 2 === 1
      if (mb > this.first && !lower) this.out.more(true)
      if (pairs && !lower) this.pair(pairs, mb)
      this.mb.macroblock(mb, this.slice, qp)
    }
    return this.w.length
  }

  private pair(pairs: PairGrid, mb: number): void {
    pairs.slices[mb] = this.slice
    const ofFields = this.chosen?.pair?.(mb) ?? false
    pairs.setPair(mb, ofFields)
    this.out.pair(ofFields, pairs.fieldsBeside(mb))
  }

  end(w: SliceWriter): Uint8Array {
    this.out.more(false)
    return w.stop()
  }

  keep(): void {
    // what is rebuilt is in the surface already
  }
}
