import type { Kernel } from '../../kernel/kernel'
import type { Grid } from './grid'
import { cabacTables } from './cabacreader'
import { PairGrid } from './pairs'
import type { PictureSet, Sequence, SliceHeader } from './parameters'
import { SliceFault, type SliceReader } from './slicebits'
import { kernelTables } from './tables'

/** What a number that the kernel gives back is called. */
const elements = [
  ...['', 'a number', 'coeff_token', 'total_zeros', 'run_before', 'level_prefix'],
  ...['a macroblock beyond the picture', 'a macroblock that is there already', 'a macroblock that breaks off'],
  ...['mb_type', 'coded_block_pattern', 'a prediction mode', 'intra_chroma_pred_mode', 'mb_qp_delta'],
  'coeff_abs_level_minus1',
]

/** Decodes the slices of one frame or field by the kernel; as SliceDecoder does plainly. */
export class KernelDecoder {
  private readonly sizes: readonly number[]
  private readonly tables: Uint8Array
  /** Of an adaptive frame's pairs: which are of fields. */
  private readonly fields: Uint8Array | null
  private begun = false

  constructor(
    private readonly kernel: Kernel,
    private readonly grid: Grid,
    private readonly sequence: Sequence,
    private readonly set: PictureSet,
    private readonly field: SliceHeader['field'],
  ) {
    const chromaLines = sequence.chroma === 1 ? 8 : 16
    const { weights, chromaOffsets } = set
    this.tables = kernelTables({ chromaLines, depth: sequence.depth, weights, chromaOffsets })
    const n = grid.count
    const planes = grid.surface.planes.map((p) => p.byteLength)
    this.fields = grid instanceof PairGrid ? grid.fields : null
    this.sizes = [this.tables.byteLength, ...planes, n, n * 32, n * 16, n, n * 2, 64, this.fields?.length ?? 0]
  }

  /** Nothing else may use the kernel between the slices of a frame. */
  slice(r: SliceReader, header: SliceHeader, number: number): void {
    const { kernel, grid } = this
    const { bytes, stop } = r.rest()
    // whatever is laid out again for a longer slice stands where it stood
    const bins = this.set.cabac ? cabacTables(header.qp) : null
    const places = kernel.lay([...this.sizes, bytes.length, ...(bins ? [bins.length, grid.count * 3] : [])])
    if (!this.begun) this.begin(places)
    const payload = places[11]!
    const memory = kernel.bytes()
    memory.set(bytes, payload)
    memory.fill(0, payload + bytes.length, payload + bytes.length + 8)
    if (bins) memory.set(bins, places[12])
    const { run } = kernel
    const eights = Number(this.set.eight)
    const fault = run.intraDecode(
      ...[payload, bytes.length, r.at, stop, header.first * (this.fields ? 2 : 1), grid.count, number],
      ...[header.qp, eights, bins ? places[12]! : 0, bins ? places[13]! : 0],
    )
    if (fault) throw new SliceFault(elements[fault]!, run.intraPlace())
  }

  private begin(places: readonly number[]): void {
    this.begun = true
    const { kernel, grid, sequence, field } = this
    const memory = kernel.bytes()
    const { strides } = grid.surface
    memory.set(this.tables, places[0])
    memory.fill(0, places[8], places[8]! + grid.count * 2)
    const down = field === 'bottom' ? strides.map((s) => s * 2) : [0, 0, 0]
    const planes = [1, 2, 3].map((i) => places[i]! + down[i - 1]!)
    const list = Uint32Array.from([...planes, ...planes, ...places.slice(4, 9), this.fields ? places[10]! : 0])
    memory.set(new Uint8Array(list.buffer), places[9])
    kernel.run.intraTables(places[0]!)
    kernel.run.intraPicture(
      ...[places[9]!, grid.stride(0, 0), grid.stride(0, 1), grid.width, grid.chromaLines],
      ...[sequence.depth, Number(field !== 'frame')],
    )
  }

  /** Copies what is known of the macroblocks into the grid; the other field's begin anew in the same place. */
  keep(): void {
    const { kernel, grid } = this
    const places = kernel.lay(this.sizes)
    kernel.take(places[4]!, grid.kind)
    kernel.take(places[7]!, grid.qps)
    kernel.take(places[8]!, grid.slices)
    if (this.fields) kernel.take(places[10]!, this.fields)
  }

  /** Copies what was rebuilt of the frame, both fields of it, into its surface. */
  keepSamples(): void {
    const places = this.kernel.lay(this.sizes)
    this.grid.surface.planes.forEach((plane, i) => this.kernel.take(places[1 + i]!, plane))
  }
}
