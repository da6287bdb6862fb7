/** A big-endian bit reader over NAL payload bytes with emulation prevention removed (ITU-T H.264 7.4.1). */
export class BitReader {
  private at = 0
  constructor(private readonly bytes: Uint8Array) {}

  /** Reads up to 32 bits; bits past the end read as zero. */
  u(n: number): number {
    let v = 0
    for (let i = 0; i < n; i++) {
      const byte = this.bytes[this.at >> 3] ?? 0
      v = v * 2 + ((byte >> (7 - (this.at & 7))) & 1)
      this.at++
    }
    return v
  }

  flag(): boolean {
    return this.u(1) === 1
  }

  /** Exp-Golomb unsigned (H.264 9.1); bounded so that hostile input ends. */
  ue(): number {
    let zeros = 0
    while (zeros < 32 && this.left > 0 && this.u(1) === 0) zeros++
    return zeros >= 32 ? 0 : 2 ** zeros - 1 + this.u(zeros)
  }

  /** Exp-Golomb signed (H.264 9.1.1). */
  se(): number {
    const k = this.ue()
    return k % 2 ? (k + 1) / 2 : -k / 2
  }

  skip(n: number): void {
    this.at += n
  }

  get left(): number {
    return this.bytes.length * 8 - this.at
  }

  /** Bits read so far. */
  get position(): number {
    return this.at
  }
}

/** Removes emulation prevention bytes (00 00 03) from a NAL unit's payload. */
export function unescapeNal(nal: Uint8Array): Uint8Array {
  const out = new Uint8Array(nal.length)
  let zeros = 0
  let n = 0
  for (const b of nal) {
    if (zeros >= 2 && b === 3) {
      zeros = 0
      continue
    }
    zeros = b === 0 ? zeros + 1 : 0
    out[n++] = b
  }
  return out.subarray(0, n)
}

/** Adds emulation prevention bytes to a NAL unit's payload (ITU-T H.264 7.4.1). */
export function escapeNal(payload: Uint8Array): Uint8Array {
  const out = new Uint8Array(Math.ceil(payload.length * 1.5) + 1)
  let zeros = 0
  let n = 0
  for (let i = 0; i < payload.length; i++) {
    const b = payload[i]!
    if (zeros >= 2 && b <= 3) {
      out[n++] = 3
      zeros = 0
    }
    zeros = b === 0 ? zeros + 1 : 0
    out[n++] = b
  }
  return out.slice(0, n)
}

/** A big-endian bit writer for NAL unit payloads. */
export class BitWriter {
  private readonly bits: number[] = []

  /** Writes the lowest `n` bits of a value. */
  u(n: number, value: number): this {
    for (let i = n - 1; i >= 0; i--) this.bits.push((value >> i) & 1)
    return this
  }

  /** All bytes, closed by a stop bit and zeros (7.3.2.11). */
  stop(): Uint8Array {
    this.u(1, 1)
    const out = new Uint8Array(Math.ceil(this.bits.length / 8))
    this.bits.forEach((b, i) => (out[i >> 3]! |= b << (7 - (i & 7))))
    return out
  }
}
