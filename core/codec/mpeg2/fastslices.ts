import type { Kernel } from '../../kernel/kernel'
import type { Frame } from './frame'
import type { Part } from './headers'
import type { PictureWork, SliceReader } from './slice'
import { coefficients0, coefficients1, meanSizes, quantisers, scans, type Codes } from './tables'
import { inverseCosines } from './transform'

/** A table as the kernel looks it up: what a code stands for above its length; 0 where there is none. */
const lookup = ({ values, lengths }: Codes) =>
  Int32Array.from(values, (v, i) => (lengths[i] === 0 ? 0 : (v << 8) | lengths[i]!))

const codes = [lookup(coefficients0), lookup(coefficients1)]
const means = meanSizes.map(lookup)

/** Slices of pictures that stand alone, by the kernel; as {@link Slice} reads them plainly. */
export class KernelSlices implements SliceReader {
  private planes: readonly number[] = []
  private unitAt = 0
  private head: PictureWork['head'] | null = null

  constructor(
    private readonly kernel: Kernel,
    private readonly unit: Uint8Array,
  ) {}

  read({ code, from, to }: Part, work: PictureWork): readonly [number, number] | null {
    const row = code - 1
    if (row >= work.rows || work.head.concealed) return null
    if (this.head !== work.head) this.begin(work)
    const count = this.kernel.run.mpeg2Slice(this.unitAt + from, to - from, row)
    return count < 0 ? null : [row * work.columns, row * work.columns + count - 1]
  }

  /** Lays a picture out. The second field of a frame finds the first where it was. */
  private begin({ head, frame, weights, columns, chroma422 }: PictureWork): void {
    const { kernel, unit } = this
    const [luma, chroma] = weights.intra
    const data = [
      ...[unit, codes[head.intraCodes ? 1 : 0]!, ...means, Uint8Array.of(...luma, ...chroma), scans[head.scan]!],
      ...[quantisers[head.quantiser]!, inverseCosines, new Uint32Array(3)],
    ]
    const places = kernel.hold(data, ...frame.planes.map((p) => p.length))
    const memory = kernel.bytes()
    // beyond a unit there are zeros
    memory.fill(0, places[0]! + unit.length, places[0]! + unit.length + 16)
    this.unitAt = places[0]!
    this.planes = places.slice(data.length)
    memory.set(new Uint8Array(Uint32Array.from(this.planes).buffer), places[data.length - 1])
    const structure = head.structure === 3 ? 0 : head.structure === 2 ? 1 : 2
    const choice = head.structure === 3 && !head.frameOnly
    kernel.run.mpeg2Codes(...places.slice(1, 8))
    kernel.run.mpeg2Picture(
      ...[places[data.length - 1]!, columns, chroma422 ? 1 : 0, structure, choice ? 1 : 0, head.meanPrecision],
    )
    this.head = head
  }

  finish(frame: Frame): void {
    frame.planes.forEach((plane, k) => this.kernel.take(this.planes[k]!, plane))
  }
}
