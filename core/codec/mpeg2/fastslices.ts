import type { Kernel } from '../../kernel/kernel'
import type { Frame } from './frame'
import type { Part } from './headers'
import type { PictureWork, SliceReader } from './slice'
import {
  coefficients0,
  coefficients1,
  increments,
  kinds,
  meanSizes,
  motions,
  patterns,
  quantisers,
  scans,
  type Codes,
} from './tables'
import { inverseCosines } from '../transform'

/** A table as the kernel looks it up: what a code stands for above its length; 0 where there is none. */
const lookup = ({ values, lengths }: Codes) =>
  Int32Array.from(values, (v, i) => (lengths[i] === 0 ? 0 : (v << 8) | lengths[i]!))

const coefficients = [lookup(coefficients0), lookup(coefficients1)] as const
const means = meanSizes.map(lookup)
const ofKinds = [1, 2, 3].map((k) => lookup(kinds[k]!))
const others = [lookup(increments), lookup(patterns), lookup(motions)] as const

/** Tables of a picture in the order of kernel/assembly/mpeg2/picture.ts. */
function tablesOf({ head, weights }: PictureWork) {
  const [along, ofPatterns, ofMotions] = others
  const { intra, other } = weights
  return [
    ...[coefficients[0], coefficients[head.intraCodes ? 1 : 0], ...means, along, ofKinds[head.kind - 1]!],
    ...[ofPatterns, ofMotions, Uint8Array.of(...intra[0], ...intra[1], ...other[0], ...other[1])],
    ...[scans[head.scan]!, quantisers[head.quantiser]!, inverseCosines],
  ]
}

/** What its headers say, in the same order, behind the places of planes. */
const numbersOf = ({ head, chroma422, second, columns, rows }: PictureWork) => [
  ...[columns, rows, Number(chroma422), head.kind, head.structure, Number(head.frameOnly), Number(head.concealed)],
  ...[Number(head.upperFirst), Number(second), head.meanPrecision, ...head.reaches.flat()],
]
const numbers = 9 + 10 + 4

/** Slices of a unit by the kernel; as {@link Slice} reads them plainly. */
export class KernelSlices implements SliceReader {
  private unitAt = 0
  /** The planes of the frame, of the one before and of the one after; 0 where there is none. */
  private planes: number[] = []
  private tables: number[] = []
  private first: PictureWork | null = null
  private head: PictureWork['head'] | null = null

  constructor(
    private readonly kernel: Kernel,
    private readonly unit: Uint8Array,
    /** Whether pictures of it lean on others. */
    private readonly leans: boolean,
  ) {}

  read({ code, from, to }: Part, work: PictureWork): readonly [number, number] | null {
    const row = code - 1
    if (row >= work.rows || !kinds[work.head.kind]) return null
    if (this.head !== work.head && !this.begin(work)) return null
    const found = this.kernel.run.mpeg2Slice(this.unitAt + from, to - from, row)
    const start = row * work.columns
    return found < 0 ? null : [start + (found >> 16), start + (found & 0xffff)]
  }

  /** Takes a picture up: of a frame, or of its second field, which finds the first where it was. */
  private begin(work: PictureWork): boolean {
    const { first } = this
    if (first && (first.before !== work.before || first.after !== work.after)) return false
    const tables = tablesOf(work)
    if (!first) this.lay(work, tables)
    this.first ??= work
    this.head = work.head
    const { run } = this.kernel
    const memory = this.kernel.bytes()
    const put = (data: Uint8Array | Int32Array | Float64Array, place: number) =>
      memory.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength), place)
    tables.forEach((t, i) => put(t, this.tables[i]!))
    const [placesAt, pictureAt] = this.tables.slice(tables.length) as [number, number]
    put(Int32Array.from(this.tables.slice(0, tables.length)), placesAt)
    put(Int32Array.from([...this.planes, ...numbersOf(work)]), pictureAt)
    run.mpeg2Tables(placesAt)
    run.mpeg2Picture(pictureAt)
    return true
  }

  /** Lays a unit out: its bytes, the frames that it leans on, its own frame, and room for tables. */
  private lay({ frame, before, after }: PictureWork, tables: readonly { readonly byteLength: number }[]): void {
    const { kernel, unit } = this
    const lent = this.leans ? [before, after] : [null, null]
    const given = lent.map((f) => (f && sameForm(f, frame) ? f.planes : []))
    const places = kernel.hold(
      [unit, ...given.flat()],
      ...frame.planes.map((p) => p.length),
      ...[...tables.map((t) => t.byteLength), tables.length * 4, numbers * 4],
    )
    this.unitAt = places.shift()!
    // beyond a unit there are zeros
    kernel.bytes().fill(0, this.unitAt + unit.length, this.unitAt + unit.length + 16)
    const leant = given.map((planes) => (planes.length === 0 ? [0, 0, 0] : places.splice(0, 3)))
    this.planes = [...places.splice(0, 3), ...leant.flat()]
    this.tables = places
  }

  finish(frame: Frame): void {
    frame.planes.forEach((plane, k) => this.kernel.take(this.planes[k]!, plane))
  }
}

const sameForm = (a: Frame, b: Frame) =>
  a.width === b.width && a.height === b.height && a.chromaHeight === b.chromaHeight
