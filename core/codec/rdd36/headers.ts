import { scanOf } from './tables'

// Headers of frames, pictures and slices of SMPTE RDD 36:2015.

/** What is wrong with a frame, and at which of its bytes. */
export class FrameFault extends Error {
  constructor(
    message: string,
    readonly byte: number,
  ) {
    super(message)
  }
}

export interface FrameHead {
  readonly width: number
  readonly height: number
  readonly chroma: '4:2:2' | '4:4:4'
  /** Whether its two pictures are fields, and which is first. */
  readonly fields: 'none' | 'upper first' | 'lower first'
  /** Display aspect and rate by their codes. */
  readonly aspect: number
  readonly rate: number
  /** By ITU-T H.273, as it states them; 0 and 2 say nothing. */
  readonly colour: { readonly primaries: number; readonly transfer: number; readonly matrix: number }
  readonly alpha: boolean
  /** Weights of coefficients, line by line: of luma and of chroma. */
  readonly weights: readonly [luma: Uint8Array, chroma: Uint8Array]
  /** Behind its header: where its first picture begins. */
  readonly end: number
  /** Bytes of the frame. */
  readonly bytes: number
}

/** Three parts of a slice: luma, Cb, Cr; and what all of them are scaled by. */
export interface SliceHead {
  /** Its first macroblock, from the left and from the top of its picture; how many it has. */
  readonly column: number
  readonly row: number
  readonly count: number
  readonly scale: number
  readonly parts: readonly (readonly [from: number, to: number])[]
}

/** A frame, or a field of it. */
export interface PictureHead {
  /** The first of its lines, and how far they are apart. */
  readonly line: number
  readonly step: number
  readonly slices: readonly SliceHead[]
}

/** More than any camera or projector has. */
const most = 8192 * 4608
const mark = 0x69637066
const uniform = new Uint8Array(64).fill(4)

/** Numbers of a frame; what lies beyond its end is a fault. */
class Numbers {
  constructor(
    private readonly bytes: Uint8Array,
    private readonly end: number,
  ) {}

  u8(at: number): number {
    if (at >= this.end) throw new FrameFault('it ends too early', this.end)
    return this.bytes[at]!
  }

  u16(at: number): number {
    return (this.u8(at) << 8) | this.u8(at + 1)
  }

  u32(at: number): number {
    return this.u16(at) * 65536 + this.u16(at + 2)
  }
}

/** Reads the header of a frame. Throws a {@link FrameFault} where it is none that is known. */
export function frameHead(unit: Uint8Array): FrameHead {
  const n = new Numbers(unit, unit.length)
  if (n.u32(4) !== mark) throw new FrameFault('no frame of this kind', 4)
  const size = n.u16(8)
  const version = n.u16(10)
  if (version > 1) throw new FrameFault(`version ${version} of its syntax`, 10)
  if (size < 20) throw new FrameFault(`a header of ${size} bytes`, 8)
  const [width, height] = [n.u16(16), n.u16(18)]
  if (width === 0 || height === 0 || width * height > most) throw new FrameFault(`pictures of ${width}×${height}`, 16)
  const kind = n.u8(20)
  const [chroma, fields] = [kind >> 6, (kind >> 2) & 3]
  if (chroma < 2) throw new FrameFault(`chroma format ${chroma}`, 20)
  if (fields > 2) throw new FrameFault(`interlace mode ${fields}`, 20)
  const alpha = n.u8(25) & 15
  if (alpha > 2) throw new FrameFault(`alpha channel type ${alpha}`, 25)
  const loaded = n.u8(27) & 3
  if (size < 20 + 64 * ((loaded >> 1) + (loaded & 1))) throw new FrameFault(`a header of ${size} bytes`, 8)
  return {
    width,
    height,
    chroma: chroma === 2 ? '4:2:2' : '4:4:4',
    fields: (['none', 'upper first', 'lower first'] as const)[fields]!,
    aspect: n.u8(21) >> 4,
    rate: n.u8(21) & 15,
    colour: { primaries: n.u8(22), transfer: n.u8(23), matrix: n.u8(24) },
    alpha: alpha > 0,
    weights: weightsIn(unit, loaded),
    end: 8 + size,
    bytes: n.u32(0),
  }
}

/** Weights of luma, of chroma; all the same where there are none. */
function weightsIn(unit: Uint8Array, loaded: number): FrameHead['weights'] {
  const at = (k: number) => {
    const w = unit.slice(28 + 64 * k, 92 + 64 * k)
    if (w.length < 64 || w.includes(0)) throw new FrameFault('a weight of 0', 28 + 64 * k)
    return w
  }
  if (loaded === 3) return [at(0), at(1)]
  if (loaded === 1) return [uniform, at(0)]
  // what chroma has beside such luma is told in two ways: it is not guessed
  if (loaded === 2) throw new FrameFault('weights for luma alone', 27)
  return [uniform, uniform]
}

/** Where the pictures of a frame have their slices: one picture, or two of fields. */
export function picturesOf(unit: Uint8Array, head: FrameHead): PictureHead[] {
  if (head.bytes > unit.length) throw new FrameFault(`${unit.length} bytes of ${head.bytes}`, 0)
  const n = new Numbers(unit, head.bytes)
  if (head.fields === 'none') return [pictureAt(n, head.end, head, 0, 1).picture]
  const lower = head.fields === 'lower first' ? 1 : 0
  const first = pictureAt(n, head.end, head, lower, 2)
  return [first.picture, pictureAt(n, first.end, head, 1 - lower, 2).picture]
}

/** Macroblocks along a frame. */
export const columnsOf = ({ width }: Pick<FrameHead, 'width'>) => Math.ceil(width / 16)

/** Macroblocks down a picture of it, which has the lines from one on, every so many. */
export const rowsOf = ({ height }: Pick<FrameHead, 'height'>, line: number, step: number) =>
  Math.ceil(Math.ceil((height - line) / step) / 16)

/** How many macroblocks each slice of a row has: as many as wanted, at its end what halves of that fill. */
function countsAlong(columns: number, wanted: number): number[] {
  const out: number[] = []
  for (let [left, count] = [columns, wanted]; left > 0; left -= count) {
    while (count > left) count >>= 1
    out.push(count)
  }
  return out
}

function pictureAt(n: Numbers, at: number, head: FrameHead, line: number, step: number) {
  const size = n.u8(at) >> 3
  const bytes = n.u32(at + 1)
  if (size < 8 || bytes < size) throw new FrameFault('the header of a picture', at)
  const counts = countsAlong(columnsOf(head), 1 << ((n.u8(at + 7) >> 4) & 3))
  const rows = rowsOf(head, line, step)
  const end = at + bytes
  const slices: SliceHead[] = []
  let from = at + size + 2 * rows * counts.length
  for (let row = 0; row < rows; row++)
    for (let k = 0, column = 0; k < counts.length; column += counts[k++]!) {
      const to = from + n.u16(at + size + 2 * slices.length)
      if (to > end) throw new FrameFault('slices that are longer than their picture', at + size + 2 * slices.length)
      slices.push({ column, row, count: counts[k]!, ...sliceAt(n, from, to) })
      from = to
    }
  return { picture: { line, step, slices }, end }
}

/** Reads the header of a slice. */
function sliceAt(n: Numbers, from: number, to: number): Pick<SliceHead, 'scale' | 'parts'> {
  if (to - from < 6) throw new FrameFault('a slice without a header', from)
  const size = n.u8(from) >> 3
  const index = n.u8(from + 1)
  if (size < 6 || index < 1 || index > 224) throw new FrameFault('the header of a slice', from)
  const luma = from + size
  const cb = luma + n.u16(from + 2)
  const cr = cb + n.u16(from + 4)
  // where its size is not said, the last part is the rest; behind it may be alpha
  const end = size >= 8 ? cr + n.u16(from + 6) : to
  if (cr > to || end > to) throw new FrameFault('a slice that is longer than it says', from)
  return {
    scale: index > 128 ? 4 * index - 384 : index,
    parts: [
      [luma, cb],
      [cb, cr],
      [cr, end],
    ],
  }
}

/** The order in which coefficients of a frame are coded, line by line. */
export const scanIn = (head: FrameHead) => scanOf(head.fields !== 'none')
