import { BitWriter } from '../../bits'
import { runs, tokens, tokensDc420, tokensDc422, zeros4x4, zerosDc420, zerosDc422, type Codes } from './codes'

// Reading and writing of a slice's bits (ITU-T H.264 9.1 and 9.2): fast cursors, and blocks of coefficients by CAVLC.

/** The kinds of coefficient blocks whose tables differ from others. */
export const [dc420, dc422] = [-1, -2] as const

/** A code table to read by: for every pattern of `bits` bits, the number times 32 and the length; 0 where none is. */
export interface Lookup {
  readonly bits: number
  readonly table: Uint16Array
}

function lookup(codes: Codes): Lookup {
  const bits = Math.max(...codes.map((c) => c.length))
  const table = new Uint16Array(1 << bits)
  codes.forEach((c, n) => {
    if (c.length === 0) return
    const from = c.bits << (bits - c.length)
    table.fill(n * 32 + c.length, from, from + (1 << (bits - c.length)))
  })
  return { bits, table }
}

/** What blocks of coefficients are read by. */
export const read = {
  tokens: tokens.map(lookup),
  dc420: lookup(tokensDc420),
  dc422: lookup(tokensDc422),
  zeros4x4: zeros4x4.map(lookup),
  zeros420: zerosDc420.map(lookup),
  zeros422: zerosDc422.map(lookup),
  runs: runs.map(lookup),
}

/** Which of the four tables of coeff_token serves, by what the neighbours hold (nC, 9.2.1). */
const tableOf = (nc: number) => (nc < 2 ? 0 : nc < 4 ? 1 : nc < 8 ? 2 : 3)

/**
 * What is wrong with a slice's bits, and where: bits from the beginning of the slice; or what of the standard it is
 * coded by that is not decoded here.
 */
export class SliceFault extends Error {
  constructor(
    readonly element: string,
    readonly bit: number,
    readonly unread = false,
  ) {
    super(unread ? `it is coded by ${element}` : `${element} at bit ${bit} of a slice makes no sense`)
  }
}

/** A cursor over a slice's payload; bits past its end read as nought, and {@link over} tells. */
export class SliceReader {
  at = 0
  private readonly end: number
  private readonly levels = new Int32Array(16)

  constructor(private readonly bytes: Uint8Array) {
    this.end = bytes.length * 8
  }

  get over(): boolean {
    return this.at > this.end
  }

  fault(element: string): never {
    throw new SliceFault(element, this.at)
  }

  /** Something whole that is not decoded here. */
  unread(what: string): never {
    throw new SliceFault(what, this.at, true)
  }

  /** The next bits, at most 25, without taking them. */
  peek(n: number): number {
    const p = this.at >> 3
    const b = this.bytes
    const word = ((b[p] ?? 0) << 24) | ((b[p + 1] ?? 0) << 16) | ((b[p + 2] ?? 0) << 8) | (b[p + 3] ?? 0)
    return (word << (this.at & 7)) >>> (32 - n)
  }

  u(n: number): number {
    if (n === 0) return 0
    if (n > 24) return this.u(n - 16) * 65536 + this.u(16)
    const v = this.peek(n)
    this.at += n
    return v
  }

  ue(): number {
    let zeros = 0
    while (this.u(1) === 0) {
      zeros++
      if (zeros > 31 || this.over) this.fault('a number')
    }
    return zeros === 0 ? 0 : 2 ** zeros - 1 + this.u(zeros)
  }

  se(): number {
    const k = this.ue()
    return k % 2 ? (k + 1) / 2 : 0 - k / 2
  }

  /** The whole payload, and where its stop bit is. */
  rest(): { bytes: Uint8Array; stop: number } {
    return { bytes: this.bytes, stop: this.stop }
  }

  /** Moves to the next whole byte. */
  align(): void {
    this.at = (this.at + 7) & ~7
  }

  /** Whether anything but the stop bit and noughts follows (7.2, more_rbsp_data). */
  more(): boolean {
    return this.at < this.stop
  }

  /** The last bit that is set; before everything where none is. */
  private get stop(): number {
    let last = this.bytes.length - 1
    while (last >= 0 && this.bytes[last] === 0) last--
    if (last < 0) return -1
    let stop = last * 8 + 7
    const byte = this.bytes[last]!
    for (let i = 0; !((byte >> i) & 1); i++) stop--
    return stop
  }

  private code({ bits, table }: Lookup, element: string): number {
    const v = table[this.peek(bits)]!
    if (v === 0 || this.over) this.fault(element)
    this.at += v & 31
    return v >> 5
  }

  /**
   * Reads a block of at most `most` coefficients (9.2): each goes to `out` at the place that `scan` gives, from `first`
   * on. Gives how many are not nought.
   */
  block(out: Int32Array, scan: Uint8Array, first: number, most: number, nc: number): number {
    const [token, zerosOf] =
      nc === dc420
        ? [read.dc420, read.zeros420]
        : nc === dc422
          ? [read.dc422, read.zeros422]
          : [read.tokens[tableOf(nc)]!, read.zeros4x4]
    const coded = this.code(token, 'coeff_token')
    const total = coded >> 2
    if (total === 0) return 0
    if (total > most) this.fault('coeff_token')
    this.readLevels(total, coded & 3)
    let left = 0
    if (total < most) {
      // blocks of fifteen have the tables of sixteen, and can have no more noughts than there is room for
      left = this.code(zerosOf[total - 1]!, 'total_zeros')
      if (left + total > most) this.fault('total_zeros')
    }
    let place = first + total + left - 1
    for (let i = 0; i < total; i++) {
      out[scan[place]!] = this.levels[i]!
      if (left > 0 && i < total - 1) {
        const run = this.code(read.runs[Math.min(left, 7) - 1]!, 'run_before')
        if (run > left) this.fault('run_before')
        left -= run
        place -= run
      }
      place--
    }
    return total
  }

  private readLevels(total: number, ones: number): void {
    const { levels } = this
    for (let i = 0; i < ones; i++) levels[i] = this.u(1) ? -1 : 1
    let suffix = total > 10 && ones < 3 ? 1 : 0
    for (let i = ones; i < total; i++) {
      let prefix = 0
      while (this.u(1) === 0) {
        prefix++
        if (prefix > 25 || this.over) this.fault('level_prefix')
      }
      let code = Math.min(15, prefix) << suffix
      const size = prefix === 14 && suffix === 0 ? 4 : prefix >= 15 ? prefix - 3 : suffix
      code += this.u(size)
      if (prefix >= 15 && suffix === 0) code += 15
      if (prefix >= 16) code += (1 << (prefix - 3)) - 4096
      if (i === ones && ones < 3) code += 2
      levels[i] = code % 2 === 0 ? (code + 2) >> 1 : (-code - 1) >> 1
      if (suffix === 0) suffix = 1
      if (Math.abs(levels[i]!) > 3 << (suffix - 1) && suffix < 6) suffix++
    }
  }
}

const lengthsOf = (codes: Codes) => Uint8Array.from(codes, (c) => c.length)
const bitsOf = (codes: Codes) => Uint16Array.from(codes, (c) => c.bits)
const written = (codes: Codes) => ({ lengths: lengthsOf(codes), bits: bitsOf(codes) })
type Written = ReturnType<typeof written>

const write = {
  tokens: tokens.map(written),
  dc420: written(tokensDc420),
  dc422: written(tokensDc422),
  zeros4x4: zeros4x4.map(written),
  zeros420: zerosDc420.map(written),
  zeros422: zerosDc422.map(written),
  runs: runs.map(written),
}

/** Bits of slices and parameter sets. */
export class SliceWriter extends BitWriter {
  private readonly levels = new Int32Array(16)
  private readonly before = new Uint8Array(16)

  ue(v: number): this {
    const bits = 31 - Math.clz32(v + 1)
    return this.u(bits, 0).u(bits + 1, v + 1)
  }

  se(v: number): this {
    return this.ue(v > 0 ? 2 * v - 1 : -2 * v)
  }

  /** Goes back to an earlier {@link length}. */
  cut(length: number): void {
    const words = length >>> 5
    const b = this.bytes
    const kept = length & 31
    if (words * 4 < this.size) {
      const p = words * 4
      this.held = (b[p]! << 24) | (b[p + 1]! << 16) | (b[p + 2]! << 8) | b[p + 3]!
      this.size = p
    }
    this.free = 32 - kept
    this.held = kept === 0 ? 0 : this.held & (-1 << this.free)
  }

  /** What is written so far: whole words, and the bits of the last one from the top. */
  state(): { bytes: Uint8Array; rest: number; length: number } {
    return { bytes: this.bytes.subarray(0, this.size), rest: this.held, length: this.length }
  }

  /** Takes bits that another one wrote, in whole words. */
  take(bytes: Uint8Array, length: number): void {
    this.bytes = new Uint8Array(bytes.length + 8)
    this.bytes.set(bytes)
    this.size = bytes.length
    this.free = 32
    this.held = 0
    if (length & 31) this.cut(length)
  }

  /**
   * Writes `most` coefficients, taken from where `scan` says, from `first` on. Gives how many are not nought.
   */
  block(c: Int32Array, scan: Uint8Array, first: number, most: number, nc: number): number {
    const { levels, before } = this
    let total = 0
    let zeros = 0
    let run = 0
    let seen = false
    for (let i = first + most - 1; i >= first; i--) {
      const v = c[scan[i]!]!
      if (v === 0) {
        if (seen) {
          zeros++
          run++
        }
        continue
      }
      if (seen) before[total - 1] = run
      seen = true
      run = 0
      levels[total++] = v
    }
    let ones = 0
    while (ones < 3 && ones < total && (levels[ones] === 1 || levels[ones] === -1)) ones++
    const dc = nc === dc420 ? write.dc420 : nc === dc422 ? write.dc422 : null
    const token: Written = dc ?? write.tokens[tableOf(nc)]!
    this.u(token.lengths[total * 4 + ones]!, token.bits[total * 4 + ones]!)
    if (total === 0) return 0
    for (let i = 0; i < ones; i++) this.u(1, levels[i]! < 0 ? 1 : 0)
    this.writeLevels(total, ones)
    if (total < most) {
      const list = nc === dc420 ? write.zeros420 : nc === dc422 ? write.zeros422 : write.zeros4x4
      const t = list[total - 1]!
      this.u(t.lengths[zeros]!, t.bits[zeros]!)
    }
    for (let i = 0; i < total - 1 && zeros > 0; i++) {
      const t = write.runs[(zeros > 7 ? 7 : zeros) - 1]!
      const r = before[i]!
      this.u(t.lengths[r]!, t.bits[r]!)
      zeros -= r
    }
    return total
  }

  private writeLevels(total: number, ones: number): void {
    let suffix = total > 10 && ones < 3 ? 1 : 0
    for (let i = ones; i < total; i++) {
      const v = this.levels[i]!
      let code = v > 0 ? 2 * v - 2 : -2 * v - 1
      if (i === ones && ones < 3) code -= 2
      this.writeLevel(code, suffix)
      if (suffix === 0) suffix = 1
      if (Math.abs(v) > 3 << (suffix - 1) && suffix < 6) suffix++
    }
  }

  private writeLevel(code: number, suffix: number): void {
    const prefix = code >> suffix
    if (prefix < 15 && !(suffix === 0 && prefix >= 14)) {
      this.u(prefix + 1, 1)
      if (suffix > 0) this.u(suffix, code & ((1 << suffix) - 1))
    } else if (suffix === 0 && code < 30) this.u(15, 1).u(4, code - 14)
    else {
      // beyond fifteen prefix bits each more doubles what can follow (9.2.2.1)
      let rest = code - (15 << suffix) - (suffix === 0 ? 15 : 0)
      let size = 12
      while (rest >= 1 << size) {
        rest -= 1 << size
        size++
      }
      this.u(size + 3, 0)
        .u(1, 1)
        .u(size, rest)
    }
  }
}
