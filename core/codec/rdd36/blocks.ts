import { inverse32 } from '../transform'
import { FrameFault, scanIn, type FrameHead, type PictureHead, type SliceHead } from './headers'
import { placeOf, type Planes } from './planes'
import { firstMean, firstRun, firstSize, means, runs, sizes, type Code } from './tables'

/** Decodes the parts of slices into planes. */
export interface SliceReader {
  /** Whether a slice could be decoded. */
  read(picture: PictureHead, slice: SliceHead): boolean
  /** Brings what was decoded into the planes. */
  finish(): void
}

/** More zeros than any code has in front. */
const mostZeros = 18

/** Bits of a part of a slice; beyond its end there are zeros. */
export class Bits {
  at: number

  constructor(
    private readonly bytes: Uint8Array,
    from: number,
    private readonly to: number,
  ) {
    this.at = from * 8
  }

  /** The next bits, 25 at most. */
  look(n: number): number {
    const i = this.at >> 3
    const byte = (k: number) => (i + k < this.to ? this.bytes[i + k]! : 0)
    const word = ((byte(0) << 24) | (byte(1) << 16) | (byte(2) << 8) | byte(3)) << (this.at & 7)
    return word >>> (32 - n)
  }

  take(n: number): number {
    if (n === 0) return 0
    const v = this.look(n)
    this.at += n
    if (this.at > this.to * 8) throw new FrameFault('a part of a slice that ends too early', this.to)
    return v
  }

  code({ last, rice, exponent }: Code): number {
    const zeros = Math.clz32(this.look(25)) - 7
    if (zeros > mostZeros) throw new FrameFault('a code that there is not', this.at >> 3)
    this.at += zeros
    if (zeros <= last) return this.take(1 + rice) - (1 << rice) + (zeros << rice)
    return this.take(exponent - last + zeros) - (1 << exponent) + ((last + 1) << rice)
  }

  /** Whether nothing is left but a few zeros, as they stand in front of what begins on a whole byte. */
  isOver(): boolean {
    const left = this.to * 8 - this.at
    return left < 32 && this.look(25) === 0 && (left <= 25 || this.bytes[this.to - 1] === 0)
  }
}

/** A number that stands for one with a sign: 0, −1, 1, −2 … */
const signed = (v: number) => (v >> 1) ^ -(v & 1)

/** Coefficients of a part, 64 of a block after the other, scaled. */
export function coefficientsOf(
  bits: Bits,
  blocks: number,
  order: { readonly scan: Uint8Array; readonly weights: Uint8Array; readonly scale: number },
): Int32Array {
  const { scan, weights, scale } = order
  const out = new Int32Array(blocks * 64)
  const put = (block: number, k: number, v: number) => {
    const at = scan[k]!
    out[block * 64 + at] = v * weights[at]! * scale
  }
  let mean = signed(bits.code(firstMean))
  put(0, 0, mean)
  let [step, sign] = [3, 0]
  for (let block = 1; block < blocks; block++) {
    const v = bits.code(means[Math.min(step, 3)]!)
    step = (v + 1) >> 1
    // a step goes the way of the one before, or back
    sign = v === 0 ? 0 : sign ^ (v & 1)
    mean += sign ? -step : step
    put(block, 0, mean)
  }
  let [run, size] = [firstRun, firstSize]
  // coefficients of one place follow for all blocks
  for (let k = blocks - 1; !bits.isOver();) {
    run = bits.code(runs[Math.min(run, 15)]!)
    k += run + 1
    if (k >= blocks * 64) throw new FrameFault('a coefficient behind the last', bits.at >> 3)
    size = bits.code(sizes[Math.min(size, 8)]!)
    put(k % blocks, Math.floor(k / blocks), bits.take(1) ? -size - 1 : size + 1)
  }
  return out
}

/** What is half a code but for the last bits of a float is rounded up everywhere. */
const half = 512.5 + 2 ** -10

/** The sample of a value: 10 bits, of which the least and the most are kept for interfaces. */
function sampleOf(value: number): number {
  const v = Math.floor(Math.fround(value / 4 + half))
  return v < 4 ? 4 : v > 1019 ? 1019 : v
}

/** Slices read plainly. */
export class PlainSlices implements SliceReader {
  private readonly scan: Uint8Array

  constructor(
    private readonly unit: Uint8Array,
    private readonly head: FrameHead,
    private readonly planes: Planes,
  ) {
    this.scan = scanIn(head)
  }

  read(picture: PictureHead, slice: SliceHead): true {
    slice.parts.forEach((_, k) => this.part(picture, slice, k))
    return true
  }

  finish(): void {
    // they are in the planes already
  }

  private part({ line, step }: PictureHead, { column, row, count, scale, parts }: SliceHead, k: number): void {
    const { unit, head, planes, scan } = this
    const full = head.chroma === '4:4:4'
    const each = k > 0 && !full ? 2 : 4
    const [from, to] = parts[k]!
    const order = { scan, weights: head.weights[k === 0 ? 0 : 1], scale }
    const coefficients = coefficientsOf(new Bits(unit, from, to), count * each, order)
    const width = planes.widths[k]!
    const wide = each === 4 ? 16 : 8
    for (let block = 0; block < count * each; block++) {
      const [x, y] = placeOf(k > 0, full, block % each)
      const left = (column + Math.floor(block / each)) * wide + x
      const values = Float32Array.from(coefficients.subarray(block * 64, block * 64 + 64))
      inverse32(values)
      for (let i = 0; i < 64; i++) {
        const at = line + (row * 16 + y + (i >> 3)) * step
        planes.samples[k]![at * width + left + (i & 7)] = sampleOf(values[i]!)
      }
    }
  }
}
