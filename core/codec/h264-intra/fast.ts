import type { Kernel } from '../../kernel/kernel'
import { cabacTables } from './cabacreader'
import type { Surface } from './grid'
import type { SliceWriter } from './slicebits'
import { kernelTables } from './tables'
import { flat } from './transform'
import type { Format } from './write'

/** Bytes a macroblock can take at most, at the lowest QP. */
const mostBytes = 2048

/** A picture of which the kernel encodes the macroblocks, slice by slice; as {@link MacroblockEncoder} does plainly. */
export class KernelEncoder {
  private readonly places: readonly number[]
  private slice = 0

  constructor(
    private readonly kernel: Kernel,
    private readonly rebuilt: Surface,
    source: Surface,
    private readonly mbs: { readonly width: number; readonly height: number; readonly slices: number },
    private readonly format: Pick<Format, 'depth' | 'chroma' | 'arithmetic'> & { readonly field: number },
  ) {
    const { width, height } = mbs
    const count = width * height
    const lines = format.chroma === 1 ? 8 : 16
    const tables = kernelTables({
      ...{ chromaLines: lines, depth: format.depth },
      ...{ weights: flat, chromaOffsets: [0, 0] },
    })
    const longest = Math.ceil(height / mbs.slices) * width * mostBytes
    const bins = [cabacTables(0).length, count * 3]
    const arrays = [count, count * 32, count * 16, count, count * 2, 64, longest, ...bins]
    this.places = kernel.hold([tables, ...source.planes], ...rebuilt.planes.map((p) => p.byteLength), ...arrays)
    const [tablesAt, ...at] = this.places
    const memory = kernel.bytes()
    memory.fill(0, at[10], at[10]! + count * 2)
    // a lower field begins a line further down
    const down = (i: number) => (format.field === 2 ? rebuilt.strides[i % 3]! * 2 : 0)
    const list = Uint32Array.from([...at.slice(0, 11).map((place, i) => place + (i < 6 ? down(i) : 0)), 0])
    memory.set(new Uint8Array(list.buffer), at[11])
    const step = format.field === 0 ? 1 : 2
    kernel.run.intraTables(tablesAt!)
    kernel.run.intraPicture(
      ...[
        at[11]!,
        rebuilt.strides[0] * step,
        rebuilt.strides[1] * step,
        width,
        lines,
        format.depth,
        Number(format.field !== 0),
      ],
    )
  }

  /** Begins a slice, behind its header. */
  begin(w: SliceWriter, qp: number, plain: boolean): void {
    const { bytes, rest, length } = w.state()
    this.kernel.bytes().set(bytes, this.places[13])
    this.kernel.run.intraBits(this.places[13]!, length, rest)
    const { arithmetic } = this.format
    this.kernel.run.intraSlice(qp, plain, arithmetic)
    this.slice++
    if (!arithmetic) return
    const [tables, room] = this.places.slice(14) as [number, number]
    const { width, height } = this.mbs
    this.kernel.bytes().set(cabacTables(qp), tables)
    this.kernel.run.intraBins(tables, room, width * height)
  }

  /** Encodes a line of macroblocks; gives how many bits the slice has so far. */
  line(line: number, qp: number): number {
    const { width } = this.mbs
    this.kernel.run.intraEncode(line * width, width, this.slice, qp)
    return this.kernel.run.intraBitLength()
  }

  /** The slice's payload, closed. */
  end(w: SliceWriter): Uint8Array {
    const { arithmetic } = this.format
    if (arithmetic) this.kernel.run.intraBinsEnd()
    const bits = this.kernel.run.intraBitLength()
    const from = this.places[13]!
    w.take(this.kernel.bytes().subarray(from, from + Math.ceil(bits / 32) * 4), bits)
    // bins end with the bit that stops a slice
    if (arithmetic) w.cut(bits - 1)
    return w.stop()
  }

  /** Copies what was rebuilt into its surface. */
  keep(): void {
    this.rebuilt.planes.forEach((plane, i) => this.kernel.take(this.places[4 + i]!, plane))
  }
}
