import type { Kernel } from '../../kernel/kernel'
import { cosines } from '../transform'
import { Bits, type SliceReader } from './blocks'
import { scanIn, type FrameHead, type PictureHead, type SliceHead } from './headers'
import type { Planes } from './planes'
import { firstMean, means, runs, sizes, type Code } from './tables'

/** A table of a code as the kernel looks it up: see takeCode of kernel/assembly/rdd36/bits.ts. */
function tableOf(code: Code): number[] {
  const entries = Array.from({ length: 256 }, (_, v) => {
    const bits = new Bits(Uint8Array.of(v, 0, 0, 0, 0, 0), 0, 6)
    const zeros = Math.clz32(v) - 24
    const value = zeros < 8 ? bits.code(code) : 0
    return zeros < 8 && bits.at <= 8 ? (bits.at << 16) | value : 0
  })
  return [...entries, code.last | (code.rice << 8) | (code.exponent << 16)]
}

const tables = [[firstMean], means, runs, sizes].map((list) => Int32Array.from(list.flatMap(tableOf)))

/** Numbers of a picture in the order of kernel/assembly/rdd36/part.ts. */
const numbers = 9 + 3 + 3

/** Slices by the kernel; as PlainSlices reads them plainly. */
export class KernelSlices implements SliceReader {
  private readonly unitAt: number
  private readonly places: readonly number[]
  private readonly planesAt: readonly number[]
  private readonly pictureAt: number
  private picture: PictureHead | null = null

  constructor(
    private readonly kernel: Kernel,
    unit: Uint8Array,
    private readonly head: FrameHead,
    private readonly planes: Planes,
  ) {
    const scan = scanIn(head)
    // the kernel has blocks column by column
    const across = scan.map((at) => ((at & 7) << 3) | (at >> 3))
    const weights = head.weights.map((w) => scan.map((at) => w[at]!)) as [Uint8Array, Uint8Array]
    const given = [unit, ...tables, across, Uint8Array.of(...weights[0], ...weights[1]), cosines]
    const at = kernel.hold(given, ...planes.samples.map((p) => p.byteLength), numbers * 4)
    this.unitAt = at[0]!
    this.places = at.slice(1, 7)
    this.planesAt = at.slice(8, 11)
    this.pictureAt = at[11]!
    kernel.run.rdd36Cosines(at[7]!)
  }

  read(picture: PictureHead, { column, row, count, scale, parts }: SliceHead): boolean {
    if (this.picture !== picture) this.begin(picture)
    const { run } = this.kernel
    return parts.every(
      ([from, to], k) => run.rdd36Part(this.unitAt + from, to - from, k, column, row, count, scale) !== 0,
    )
  }

  private begin(picture: PictureHead): void {
    this.picture = picture
    const { head, planes, places, planesAt, pictureAt, kernel } = this
    const full = Number(head.chroma === '4:4:4')
    const all = [...places, full, picture.line, picture.step, ...planesAt, ...planes.widths]
    kernel.bytes().set(new Uint8Array(Int32Array.from(all).buffer), pictureAt)
    kernel.run.rdd36Picture(pictureAt)
  }

  finish(): void {
    this.planes.samples.forEach((plane, k) => this.kernel.take(this.planesAt[k]!, plane))
  }
}
