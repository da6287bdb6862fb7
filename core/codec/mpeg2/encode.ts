import { BitWriter } from '../../bits'
import { kernel } from '../../kernel/kernel'
import { toChroma422, toDepth, type Picture } from '../../picture/picture'
import { fail } from '../../problem'
import type { Frames } from '../../time/rate'
import { gridOf, meansAlone, PlainBlocks, type Blocks } from './blocks'
import { KernelBlocks } from './fastblocks'
import { writeHeads, type IntraFormat } from './write'

/** Bits that begin a slice and fill its last byte, and those that say a new quantiser, at most. */
const [around, changed] = [38 + 7, 6]

/** Numbers below `count`, each as far from those before it as can be: what comes early is spread over all. */
export function spread(count: number): number[] {
  const bits = 32 - Math.clz32(Math.max(1, count - 1))
  const turned = Array.from({ length: 1 << bits }, (_, i) => {
    let out = 0
    for (let b = 0; b < bits; b++) out |= ((i >> b) & 1) << (bits - 1 - b)
    return out
  })
  return turned.filter((n) => n < count)
}

/**
 * Makes access units that all have one size: the finest quantiser that fits is found by weighing the picture with one
 * after the other, from that of the picture before; lines spread over the picture have the next finer one, as many as
 * there is room for. What is left is zero stuffing (H.262 5.2.3).
 */
export class IntraEncoder {
  private readonly blocks: Blocks
  private readonly order: readonly number[]
  private last = 8
  private still: { readonly of: Picture; readonly slices: Uint8Array } | null = null

  private readonly grid: { readonly columns: number; readonly rows: number }

  /** `loops` as the machine has them when absent; null is without. */
  constructor(
    private readonly format: IntraFormat,
    loops = kernel(),
  ) {
    this.grid = gridOf(format)
    this.blocks = loops ? new KernelBlocks(loops, format) : new PlainBlocks(format)
    this.order = spread(this.grid.rows)
  }

  /** The access unit of a picture, which is a frame of its file; what it has more than 8 bits is rounded. */
  encode(picture: Picture, frame: Frames): Uint8Array {
    const { bytes } = this.format
    const w = new BitWriter()
    writeHeads(w, this.format, frame)
    const heads = w.finish()
    if (this.still?.of !== picture) this.still = { of: picture, slices: this.slices(picture, bytes - heads.length) }
    const { slices } = this.still
    const out = new Uint8Array(bytes)
    out.set(heads)
    out.set(slices, heads.length)
    return out
  }

  private slices(picture: Picture, bytes: number): Uint8Array {
    this.blocks.load(toChroma422(toDepth(picture, 8)))
    const out = this.blocks.write(this.share(bytes * 8 - this.grid.rows * around))
    if (out.length > bytes) fail('internal.error', `A picture took ${out.length} bytes where it was to take ${bytes}.`)
    return out
  }

  /** The quantiser of each macroblock. */
  private share(budget: number): Uint8Array {
    const { blocks, order } = this
    const { columns, rows } = this.grid
    const costs = new Map<number, Uint32Array>()
    const costOf = (q: number) => costs.get(q) ?? costs.set(q, blocks.cost(q)).get(q)!
    const total = (q: number) => costOf(q).reduce((sum, n) => sum + n, 0)
    let coarse = this.last
    while (coarse < meansAlone && total(coarse) > budget) coarse++
    while (coarse > 1 && total(coarse - 1) <= budget) coarse--
    this.last = coarse
    const out = new Uint8Array(rows * columns).fill(coarse)
    if (coarse === 1) return out
    const [more, less] = [costOf(coarse - 1), costOf(coarse)]
    let left = budget - total(coarse) - changed
    for (const row of order)
      for (let mb = row * columns; mb < (row + 1) * columns; mb++) {
        left -= more[mb]! - less[mb]!
        if (left < 0) return out
        out[mb] = coarse - 1
      }
    return out
  }
}
