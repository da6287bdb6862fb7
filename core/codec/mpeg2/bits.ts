import type { Codes } from './tables'

/** What is wrong with a stream of MPEG-2, and where: the bit from the beginning of its unit. */
export class StreamFault extends Error {
  constructor(
    message: string,
    readonly bit: number,
    /** Whether all that is missing is a picture that it leans on. */
    readonly leans = false,
  ) {
    super(message)
  }
}

/** Reads bits of a unit; beyond its end there are zeros, and reading far beyond is a fault. */
export class Bits {
  at = 0

  constructor(
    private readonly bytes: Uint8Array,
    from = 0,
    private readonly to = bytes.length,
  ) {
    this.at = from * 8
  }

  /** The next bits, 25 at most, without taking them. */
  look(n: number): number {
    const i = this.at >> 3
    const { bytes } = this
    const word = ((bytes[i]! << 24) | (bytes[i + 1]! << 16) | (bytes[i + 2]! << 8) | bytes[i + 3]!) << (this.at & 7)
    return word >>> (32 - n)
  }

  take(n: number): number {
    if (n === 0) return 0
    if (n > 25) return this.take(16) * 2 ** (n - 16) + this.take(n - 16)
    const v = this.look(n)
    this.at += n
    if (this.at > this.to * 8 + 32) throw new StreamFault('it ends too early', this.at)
    return v
  }

  code(codes: Codes, what: string): number {
    const v = this.look(codes.bits)
    const length = codes.lengths[v]!
    if (length === 0) throw new StreamFault(what, this.at)
    this.at += length
    if (this.at > this.to * 8 + 32) throw new StreamFault('it ends too early', this.at)
    return codes.values[v]!
  }
}
