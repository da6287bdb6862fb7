import type { Kernel } from '../../kernel/kernel'
import type { Picture } from '../../picture/picture'
import { blocksEach, CodedPlanes, factors, gridOf, isMoving, means, pairBits, pairs, type Blocks } from './blocks'
import { scans } from './tables'
import { cosines } from '../transform'
import type { IntraFormat } from './write'

const meanCodes = Uint16Array.from(means.flatMap((m) => [...m.codes]))
const meanSizes = Uint8Array.from(means.flatMap((m) => [...m.sizes]))
/** Quantisers one after the other, 64 numbers each; scans that count in columns, as the kernel transforms. */
const kernelFactors = factors.map((list) => Float32Array.from(list.flatMap((f) => [...f])))
const kernelScans = scans.map((scan) => scan.map((at) => ((at & 7) << 3) | (at >> 3)))

/** A picture of which the kernel transforms, weighs and writes the macroblocks; as {@link PlainBlocks} does plainly. */
export class KernelBlocks implements Blocks {
  private readonly coded: CodedPlanes
  private readonly count: number
  /** Where quantisers, costs and slices stand in the kernel's memory, from one picture's load to the next. */
  private places: readonly [quantisers: number, costs: number, slices: number] = [0, 0, 0]

  constructor(
    private readonly kernel: Kernel,
    private readonly format: IntraFormat,
  ) {
    this.coded = new CodedPlanes(format)
    const { columns, rows } = gridOf(format)
    this.count = columns * rows
  }

  load(picture: Picture): void {
    const { kernel, format, count } = this
    this.coded.load(picture)
    const moving = isMoving(format)
    const which = moving ? 1 : 0
    const tables = [pairBits, pairs.codes, meanCodes, meanSizes, kernelFactors[which]!, kernelScans[which]!, cosines]
    const rooms = [count * blocksEach * 128, count, count, count * 4, format.bytes]
    const at = kernel.hold([...this.coded.planes, ...tables], ...rooms)
    const [y, cb, cr, ...rest] = at as [number, number, number, ...number[]]
    const [coefficients, apart, quantisers, costs, slices] = rest.slice(tables.length) as [
      ...[number, number, number, number, number],
    ]
    this.places = [quantisers, costs, slices]
    kernel.run.mpeg2EncoderTables(...rest.slice(0, tables.length))
    const { width, lines } = format.form
    kernel.run.mpeg2Load(y, cb, cr, width, lines, moving ? 1 : 0, coefficients, apart)
  }

  cost(quantiser: number): Uint32Array {
    const out = new Uint32Array(this.count)
    this.kernel.run.mpeg2Cost(quantiser, this.places[1])
    this.kernel.take(this.places[1], out)
    return out
  }

  write(quantisers: Uint8Array): Uint8Array {
    const [at, , slices] = this.places
    this.kernel.bytes().set(quantisers, at)
    const bytes = this.kernel.run.mpeg2Write(at, slices)
    return this.kernel.bytes().slice(slices, slices + bytes)
  }
}
