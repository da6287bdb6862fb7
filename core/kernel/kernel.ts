import { wasm } from './built'

/** The compiled hot loops (assembly/); places are bytes of {@link Kernel.bytes}. */
interface Loops {
  scale(...places: number[]): void
  packV210(y: number, u: number, v: number, width: number, height: number, stride: number, out: number): void
  packV210From420(y: number, u: number, v: number, width: number, height: number, stride: number, out: number): void
  unpackUyvy(from: number, width: number, height: number, y: number, u: number, v: number): void
  unpackV210(bytes: number, width: number, height: number, stride: number, y: number, u: number, v: number): void
  deepen(from: number, count: number, to: number): void
  flatten(from: number, count: number, to: number): void
  dither(from: number, width: number, lines: number, even: number, odd: number, to: number): void
  upChroma(bytes: number, from: number, width: number, lines: number, height: number, to: number): void
  downChroma(bytes: number, from: number, width: number, lines: number, height: number, to: number): void
  range(bytes: number, y: number, u: number, v: number, ...more: readonly number[]): void
  bandSums(bytes: number, plane: number, ...more: readonly number[]): void
  combing(bytes: number, own: number, before: number, ...more: readonly number[]): void
  convert(bytes: number, ...more: readonly number[]): void
  toDeltas(from: number, count: number, parts: number, to: number): void
  fromDeltas(from: number, count: number, parts: number, to: number): void
  packPcm(
    ...args: [from: number, stride: number, count: number, channels: number, bytes: number, little: boolean, to: number]
  ): void
  unpackPcm(
    ...args: [from: number, count: number, channels: number, bytes: number, little: boolean, to: number, stride: number]
  ): void
  toRgb(bytes: number, ...more: readonly number[]): void
  fromRgb(...places: readonly number[]): void
  preview(bytes: number, y: number, u: number, v: number, ...more: readonly number[]): void
  truePeak(x: number, count: number, taps: number, margin: number, peak: number): number
  weigh(a: number, b: number, count: number, taps: number, states: number): void
  intraTables(place: number): void
  intraPicture(...numbers: readonly number[]): void
  intraSlice(qp: number, plain: boolean, arithmetic: boolean): void
  intraBins(tables: number, room: number, count: number): void
  intraBinsEnd(): void
  intraEncode(first: number, count: number, slice: number, qp: number): void
  intraDecode(...numbers: readonly number[]): number
  intraPlace(): number
  intraBits(place: number, bits: number, rest: number): void
  intraBitLength(): number
  mpeg2Picture(place: number): void
  mpeg2Slice(from: number, size: number, row: number): number
  mpeg2Tables(place: number): void
  mpeg2EncoderTables(...places: readonly number[]): void
  mpeg2Load(...numbers: readonly number[]): void
  mpeg2Cost(quantiser: number, to: number): void
  mpeg2Write(quantisers: number, to: number): number
  rdd36Cosines(place: number): void
  rdd36Picture(place: number): void
  rdd36Part(from: number, size: number, ...numbers: readonly number[]): number
  difference(a: number, aBytes: number, b: number, bBytes: number, count: number): bigint
}

type Exports = Loops & { readonly memory: WebAssembly.Memory; readonly free: { readonly value: number } }

/** What stands in the kernel's memory: samples of any width. */
type Data = Uint8Array | Int8Array | Uint16Array | Int16Array | Uint32Array | Int32Array | Float32Array | Float64Array

/** Bytes behind every part that may be read or written over. */
const spare = 64

/** The kernel of this thread: its loops, and room for what they read and write. */
export class Kernel {
  constructor(private readonly exports: Exports) {}

  get run(): Loops {
    return this.exports
  }

  /** Lays parts of so many bytes out one after the other, on 16 bytes and with 64 to spare; gives where each begins. */
  lay(sizes: readonly number[]): number[] {
    const { memory, free } = this.exports
    let at = (free.value + 15) & ~15
    const places = sizes.map((n) => {
      const place = at
      at = (at + n + spare + 15) & ~15
      return place
    })
    const missing = at - memory.buffer.byteLength
    if (missing > 0) memory.grow(Math.ceil(missing / 65536))
    return places
  }

  /** The bytes of memory; other ones after each {@link lay}. */
  bytes(): Uint8Array {
    return new Uint8Array(this.exports.memory.buffer)
  }

  /** Lays room out, and data into the first of it. */
  hold(data: readonly Data[], ...more: readonly number[]): number[] {
    const places = this.lay([...data.map((d) => d.byteLength), ...more])
    const memory = this.bytes()
    data.forEach((d, i) => memory.set(new Uint8Array(d.buffer, d.byteOffset, d.byteLength), places[i]))
    return places
  }

  /** Copies what stands at a place into an array of its own kind. */
  take(at: number, into: Data): void {
    new Uint8Array(into.buffer, into.byteOffset, into.byteLength).set(this.bytes().subarray(at, at + into.byteLength))
  }
}

function load(): Kernel | null {
  try {
    const bytes = Uint8Array.from(atob(wasm), (c) => c.charCodeAt(0))
    const { exports } = new WebAssembly.Instance(new WebAssembly.Module(bytes), {
      env: { abort: () => undefined },
    })
    return new Kernel(exports as unknown as Exports)
  } catch {
    // a runtime without SIMD: the plain references serve
    return null
  }
}

let loaded: Kernel | null | undefined

/** The kernel, compiled when it is asked for first; null where the runtime cannot run it. */
export function kernel(): Kernel | null {
  if (loaded === undefined) loaded = load()
  return loaded
}
