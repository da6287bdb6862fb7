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

/** Copies bytes on, from where it was before to a place. */
class Onward {
  from = 0
  private size = 0

  constructor(
    private readonly bytes: Uint8Array,
    private readonly out: Uint8Array,
  ) {}

  copy(to: number): void {
    this.out.set(this.bytes.subarray(this.from, to), this.size)
    this.size += to - this.from
    this.from = to
  }

  put(byte: number): void {
    this.out[this.size++] = byte
  }

  /** All of it, the rest copied. */
  end(): Uint8Array {
    this.copy(this.bytes.length)
    return this.out.subarray(0, this.size)
  }
}

/** Removes emulation prevention bytes (00 00 03) from a NAL unit's payload. */
export function unescapeNal(nal: Uint8Array): Uint8Array {
  const on = new Onward(nal, new Uint8Array(nal.length))
  // from nought to nought: most bytes are copied with many others
  let i = nal.indexOf(0)
  while (i >= 0 && i + 2 < nal.length) {
    if (nal[i + 1] !== 0) i = nal.indexOf(0, i + 2)
    else if (nal[i + 2] === 3) {
      on.copy(i + 2)
      on.from++
      i = nal.indexOf(0, on.from)
    } else i = nal[i + 2] === 0 ? i + 1 : nal.indexOf(0, i + 3)
  }
  return on.end()
}

/** Adds emulation prevention bytes to a NAL unit's payload (ITU-T H.264 7.4.1). */
export function escapeNal(payload: Uint8Array): Uint8Array {
  const on = new Onward(payload, new Uint8Array(Math.ceil(payload.length * 1.5) + 1))
  let i = payload.indexOf(0)
  while (i >= 0 && i + 2 < payload.length) {
    if (payload[i + 1] !== 0 || payload[i + 2]! > 3) {
      i = payload.indexOf(0, i + (payload[i + 1] === 0 ? 3 : 2))
      continue
    }
    on.copy(i + 2)
    on.put(3)
    i = payload.indexOf(0, on.from)
  }
  return on.end().slice()
}

/** An appendable run of bits, the highest first. */
export class BitWriter {
  protected bytes = new Uint8Array(1 << 16)
  protected size = 0
  protected held = 0
  protected free = 32

  /** Bits written so far. */
  get length(): number {
    return this.size * 8 + 32 - this.free
  }

  /** Writes the lowest `n` bits of a value, at most 32; the others must be nought. */
  u(n: number, v: number): this {
    if (n < this.free) {
      this.free -= n
      this.held |= v << this.free
      return this
    }
    const over = n - this.free
    this.word(this.held | (v >>> over))
    this.free = 32 - over
    this.held = over === 0 ? 0 : v << this.free
    return this
  }

  protected room(): void {
    if (this.size + 4 <= this.bytes.length) return
    const grown = new Uint8Array(this.bytes.length * 2)
    grown.set(this.bytes)
    this.bytes = grown
  }

  private word(w: number): void {
    this.room()
    this.bytes[this.size] = w >>> 24
    this.bytes[this.size + 1] = w >>> 16
    this.bytes[this.size + 2] = w >>> 8
    this.bytes[this.size + 3] = w
    this.size += 4
  }

  /** Noughts up to the next whole byte. */
  align(): this {
    return this.u(this.free & 7, 0)
  }

  /** The bytes, with noughts behind up to a whole one; the writer is empty again. */
  finish(): Uint8Array {
    this.align()
    const kept = (32 - this.free) >> 3
    this.room()
    for (let i = 0, w = this.held; i < kept; i++, w <<= 8) this.bytes[this.size++] = w >>> 24
    const out = this.bytes.slice(0, this.size)
    this.size = 0
    this.held = 0
    this.free = 32
    return out
  }

  /** The bytes, closed by a stop bit and noughts (ITU-T H.264 7.3.2.11); the writer is empty again. */
  stop(): Uint8Array {
    return this.u(1, 1).finish()
  }
}
