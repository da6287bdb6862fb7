import { fail } from './problem'

/** Where bytes come from: a disk file, a browser File, memory. Parsers see only this. */
export interface ByteSource {
  /** Name for messages. */
  readonly name: string
  /** Bytes. */
  readonly size: number
  /** Reads exactly `length` bytes, or fewer at the end of the source. */
  read(offset: number, length: number): Promise<Uint8Array>
}

/** Where bytes go; positions may be written in any order. */
export interface ByteSink {
  write(offset: number, bytes: Uint8Array): Promise<void>
}

/** A source over bytes in memory. */
export function memorySource(bytes: Uint8Array, name = 'memory'): ByteSource {
  return {
    name,
    size: bytes.length,
    read: async (offset, length) =>
      bytes.subarray(Math.min(offset, bytes.length), Math.min(offset + length, bytes.length)),
  }
}

/** Reads exactly `length` bytes or throws a `file.truncated` problem naming the offset. */
export async function readExactly(source: ByteSource, offset: number, length: number): Promise<Uint8Array> {
  const bytes = await source.read(offset, length)
  if (bytes.length < length) {
    fail(
      'file.truncated',
      `The file ends at byte ${source.size}, in the middle of something that should reach byte ${offset + length}.`,
      source.name,
      'Copy the file again from where it came from.',
    )
  }
  return bytes
}

/** Reads forward through a large source by pieces, so that small reads one after the other cost few of the source. */
export class ForwardReader {
  private bytes: Uint8Array = new Uint8Array(0)
  private from = 0

  constructor(protected readonly source: ByteSource) {}

  async at(offset: number, length: number): Promise<Uint8Array> {
    if (offset < this.from || offset + length > this.from + this.bytes.length) {
      this.bytes = await this.source.read(offset, Math.max(length, 1 << 18))
      this.from = offset
    }
    return this.bytes.subarray(offset - this.from, Math.min(this.bytes.length, offset - this.from + length))
  }
}

/** A cursor over big- or little-endian bytes; running over the end throws `file.truncated`. */
export class Reader {
  private readonly view: DataView
  pos = 0
  constructor(
    readonly bytes: Uint8Array,
    readonly name = '',
    readonly base = 0,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  }

  get left(): number {
    return this.bytes.length - this.pos
  }

  private take(n: number): number {
    if (n < 0 || this.left < n)
      fail(
        'file.truncated',
        `Something at byte ${this.base + this.pos} runs past the end of the part it belongs to.`,
        this.name,
        'Copy the file again from where it came from.',
      )
    const at = this.pos
    this.pos += n
    return at
  }

  u8(): number {
    return this.view.getUint8(this.take(1))
  }
  u16(): number {
    return this.view.getUint16(this.take(2))
  }
  i16(): number {
    return this.view.getInt16(this.take(2))
  }
  u24(): number {
    const at = this.take(3)
    return (this.view.getUint8(at) << 16) | this.view.getUint16(at + 1)
  }
  u32(): number {
    return this.view.getUint32(this.take(4))
  }
  i32(): number {
    return this.view.getInt32(this.take(4))
  }
  u64(): number {
    const at = this.take(8)
    return this.view.getUint32(at) * 2 ** 32 + this.view.getUint32(at + 4)
  }
  i64(): number {
    const at = this.take(8)
    return this.view.getInt32(at) * 2 ** 32 + this.view.getUint32(at + 4)
  }
  f64(): number {
    return this.view.getFloat64(this.take(8))
  }
  u16le(): number {
    return this.view.getUint16(this.take(2), true)
  }
  u32le(): number {
    return this.view.getUint32(this.take(4), true)
  }
  i32le(): number {
    return this.view.getInt32(this.take(4), true)
  }
  f32le(): number {
    return this.view.getFloat32(this.take(4), true)
  }
  u64le(): number {
    const at = this.take(8)
    return this.view.getUint32(at, true) + this.view.getUint32(at + 4, true) * 2 ** 32
  }
  tag(): string {
    const at = this.take(4)
    return String.fromCharCode(...this.bytes.subarray(at, at + 4))
  }
  skip(n: number): void {
    this.take(n)
  }
  part(n: number): Uint8Array {
    const at = this.take(n)
    return this.bytes.subarray(at, at + n)
  }
  sub(n: number): Reader {
    const at = this.take(n)
    return new Reader(this.bytes.subarray(at, at + n), this.name, this.base + at)
  }
}

/** An appendable byte buffer, big-endian unless the name says `le`. */
export class Writer {
  private store = new Uint8Array(1024)
  private view = new DataView(this.store.buffer)
  length = 0

  private room(n: number): number {
    if (this.length + n > this.store.length) {
      const grown = new Uint8Array(Math.max(this.store.length * 2, this.length + n))
      grown.set(this.store.subarray(0, this.length))
      this.store = grown
      this.view = new DataView(grown.buffer)
    }
    const at = this.length
    this.length += n
    return at
  }

  u8(v: number): this {
    const at = this.room(1)
    this.view.setUint8(at, v)
    return this
  }
  u16(v: number): this {
    const at = this.room(2)
    this.view.setUint16(at, v)
    return this
  }
  i16(v: number): this {
    const at = this.room(2)
    this.view.setInt16(at, v)
    return this
  }
  u24(v: number): this {
    return this.u8(v >>> 16).u16(v & 0xffff)
  }
  u32(v: number): this {
    const at = this.room(4)
    this.view.setUint32(at, v)
    return this
  }
  i32(v: number): this {
    const at = this.room(4)
    this.view.setInt32(at, v)
    return this
  }
  u64(v: number): this {
    return this.u32(Math.floor(v / 2 ** 32)).u32(v % 2 ** 32)
  }
  i64(v: number): this {
    const at = this.room(8)
    this.view.setBigInt64(at, BigInt(v))
    return this
  }
  f64(v: number): this {
    const at = this.room(8)
    this.view.setFloat64(at, v)
    return this
  }
  u16le(v: number): this {
    const at = this.room(2)
    this.view.setUint16(at, v, true)
    return this
  }
  i16le(v: number): this {
    const at = this.room(2)
    this.view.setInt16(at, v, true)
    return this
  }
  u32le(v: number): this {
    const at = this.room(4)
    this.view.setUint32(at, v, true)
    return this
  }
  f32le(v: number): this {
    const at = this.room(4)
    this.view.setFloat32(at, v, true)
    return this
  }
  u64le(v: number): this {
    return this.u32le(v % 2 ** 32).u32le(Math.floor(v / 2 ** 32))
  }
  tag(s: string): this {
    for (let i = 0; i < s.length; i++) this.u8(s.charCodeAt(i))
    return this
  }
  raw(b: Uint8Array): this {
    const at = this.room(b.length)
    this.store.set(b, at)
    return this
  }
  zero(n: number): this {
    this.room(n)
    return this
  }
  /** Text cut or zero-padded to `n` bytes. */
  text(s: string, n: number): this {
    const b = new TextEncoder().encode(s).subarray(0, n)
    return this.raw(b).zero(n - b.length)
  }

  bytes(): Uint8Array {
    return this.store.slice(0, this.length)
  }
}

/** Whether two stretches of bytes are the same. */
export function sameBytes(a: Uint8Array, b: Uint8Array): boolean {
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false
  return true
}

/** Joins byte pieces. */
export function concatBytes(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0))
  let at = 0
  for (const p of parts) {
    out.set(p, at)
    at += p.length
  }
  return out
}

const alphabet = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'

/** Base64 of bytes (RFC 4648), for carrying codec configurations in JSON. */
export function toBase64(bytes: Uint8Array): string {
  let out = ''
  for (let i = 0; i < bytes.length; i += 3) {
    const v = (bytes[i]! << 16) | ((bytes[i + 1] ?? 0) << 8) | (bytes[i + 2] ?? 0)
    out +=
      alphabet[v >> 18]! +
      alphabet[(v >> 12) & 63]! +
      (i + 1 < bytes.length ? alphabet[(v >> 6) & 63]! : '=') +
      (i + 2 < bytes.length ? alphabet[v & 63]! : '=')
  }
  return out
}

/** The bytes of a base64 text (RFC 4648). */
export function fromBase64(text: string): Uint8Array {
  const clean = text.replace(/[^A-Za-z0-9+/]/g, '')
  const out = new Uint8Array(Math.floor((clean.length * 3) / 4))
  let acc = 0
  let bits = 0
  let at = 0
  for (const c of clean) {
    acc = ((acc << 6) | alphabet.indexOf(c)) & 0xffffff
    bits += 6
    if (bits >= 8) {
      bits -= 8
      out[at++] = (acc >> bits) & 255
    }
  }
  return out
}
