import { concatBytes } from '../../bytes'
import { fail } from '../../problem'
import { unit } from './write'
import type { IntraEncoder, Manner } from './encode'

/** How much less a line of macroblocks takes with a QP one higher, as a rule: a sixth of a bit of each coefficient. */
const perStep = 0.93
/** How far the QP may move from one line to the next. */
const mostStep = 3
/** How often a picture is encoded anew, at most, until it fits and wastes little. */
const tries = 10

/** What each line of macroblocks took, in bits, and at which QP. */
interface Taken {
  readonly bits: Float64Array
  readonly qps: Int8Array
}

/**
 * Makes access units that all have one size: the QP follows what the lines of the picture before took, line by line; a
 * picture that does not fit, or leaves much unused, is encoded anew with what was learnt. What is left is filler.
 */
export class ConstantSize {
  private before: Taken | null = null

  constructor(
    private readonly encoder: IntraEncoder,
    /** Bytes of every access unit. */
    private readonly size: number,
    private readonly manner: Pick<Manner, 'slices' | 'kept'>,
  ) {}

  /** Encodes the picture the encoder has loaded. */
  next(): Uint8Array {
    const least = -6 * (this.encoder.format.depth - 8)
    let best: Uint8Array | null = null
    let bias = 0
    let fitted = 0
    let plain = false
    for (let n = 0; n < tries; n++) {
      if (n === tries / 2 && !best) {
        plain = true
        bias = 0
      }
      // chroma has finer steps than luma at high QPs: of noise alone it can be too much by itself
      const { bytes, taken } = this.attempt(least, bias, plain)
      const fits = bytes.length <= this.size
      if (fits && (!best || bytes.length > best.length)) best = bytes
      // at the lowest QP there is nothing better to be had
      const full = bytes.length > this.size * 0.98 || taken.qps.every((q) => q === least)
      this.before = taken
      if (fits && (full || ++fitted === 3)) break
      // what does not fit is aimed lower by what it was over, and a little more each time
      bias = fits ? 0 : bias + Math.max(0.005, bytes.length / this.size - 1) + 0.005 * n
    }
    const { width, height } = this.encoder.format
    best ??= fail(
      'h264-intra.size',
      `A picture of ${width}×${height} does not fit into ${this.size} bytes.`,
      undefined,
      'Choose another class.',
    )
    return filled(best, this.size)
  }

  private attempt(least: number, bias: number, plain: boolean): { bytes: Uint8Array; taken: Taken } {
    const { encoder, before } = this
    const count = encoder.lines
    const taken: Taken = { bits: new Float64Array(count), qps: new Int8Array(count) }
    const budget = this.size * 8 * (0.994 - bias)
    // what the lines from one on take at a QP, as the picture before tells
    const expected = (from: number, qp: number) => {
      let sum = 0
      for (let i = from; i < count; i++)
        sum += before ? before.bits[i]! * perStep ** (qp - before.qps[i]!) : (budget / count) * perStep ** (qp - 18)
      return sum
    }
    let off = 1
    let start = 0
    const bytes = encoder.encode({
      ...this.manner,
      plain,
      qp: (line, bits) => {
        if (line > 0) {
          taken.bits[line - 1] = bits - start
          const foreseen = expected(line - 1, taken.qps[line - 1]!) - expected(line, taken.qps[line - 1]!)
          off += (Math.max(0.1, Math.min(10, (bits - start) / Math.max(1, foreseen))) - off) * (before ? 0.25 : 0.5)
        }
        start = bits
        const last = line > 0 ? taken.qps[line - 1]! : null
        const at = last ?? before?.qps[0] ?? 18
        const wanted = (budget - bits) / Math.max(1, expected(line, at) * off)
        const step = wanted <= 0 ? 51 : Math.round(Math.log(wanted) / Math.log(perStep))
        const bound = last === null ? 63 : mostStep
        const qp = at + Math.max(-bound, Math.min(wanted < 0.3 ? 63 : bound, step))
        return (taken.qps[line] = Math.max(least, Math.min(51, qp)))
      },
    })
    taken.bits[count - 1] = bytes.length * 8 - start
    return { bytes, taken }
  }
}

/** An access unit with filler behind it (7.3.2.7), or with noughts where there is no room for it. */
function filled(bytes: Uint8Array, size: number): Uint8Array {
  const rest = size - bytes.length
  const least = unit(12, Uint8Array.of(0x80)).length
  if (rest < least) return concatBytes([bytes, new Uint8Array(rest)])
  const filler = new Uint8Array(rest - least + 1).fill(0xff)
  filler[filler.length - 1] = 0x80
  return concatBytes([bytes, unit(12, filler)])
}
