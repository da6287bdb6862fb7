import { kernel } from './kernel'

// Packing of 4:2:2 10 bit as v210: three samples in each little-endian word, Cb Y Cr, Y Cb Y, Cr Y Cb, Y Cr Y. What the
// kernel does by whole groups of six pixels, the plain functions do for all of a line, or for what is left of it.

/** Luma, Cb, Cr of 10 bits. */
export type Planes10 = readonly [Uint16Array, Uint16Array, Uint16Array]
export type Planes8 = readonly [Uint8Array, Uint8Array, Uint8Array]

/** Bytes of one line: groups of 48 pixels in 128 bytes. */
export function v210Stride(width: number): number {
  return Math.ceil(width / 48) * 128
}

/** Codes that may stand in video data: 0 … 3 and 1020 … 1023 are kept for timing references (SMPTE ST 274 8.12). */
const legal = Uint16Array.from({ length: 1024 }, (_, v) => Math.max(4, Math.min(1019, v)))

const wordsOf = (bytes: Uint8Array) => new Uint32Array(bytes.buffer, bytes.byteOffset, bytes.byteLength >> 2)

/** Samples of a line by their place in it. */
interface Line {
  y(i: number): number
  u(i: number): number
  v(i: number): number
}

/** Packs a line from a pixel on (a multiple of six) to its end; what is left of the last group is black, then zero. */
function packLine(words: Uint32Array, at: number, from: number, width: number, stride: number, line: Line): void {
  const y = (i: number) => (i < width ? legal[line.y(i)]! : 64)
  const u = (i: number) => (2 * i < width ? legal[line.u(i)]! : 512)
  const v = (i: number) => (2 * i < width ? legal[line.v(i)]! : 512)
  let w = at + (from / 6) * 4
  for (let x = from, c = from >> 1; x < width; x += 6, c += 3, w += 4) {
    words[w] = u(c) | (y(x) << 10) | (v(c) << 20)
    words[w + 1] = y(x + 1) | (u(c + 1) << 10) | (y(x + 2) << 20)
    words[w + 2] = v(c + 1) | (y(x + 3) << 10) | (u(c + 2) << 20)
    words[w + 3] = y(x + 4) | (v(c + 2) << 10) | (y(x + 5) << 20)
  }
  words.fill(0, w, at + (stride >> 2))
}

/** Packs a 10-bit 4:2:2 picture from a pixel of each line on. */
export function packPlain([Y, U, V]: Planes10, width: number, height: number, out: Uint8Array, from = 0): void {
  const stride = v210Stride(width)
  const words = wordsOf(out)
  const cw = (width + 1) >> 1
  for (let n = 0; n < height; n++) {
    const [l, c] = [n * width, n * cw]
    const line = { y: (i: number) => Y[l + i]!, u: (i: number) => U[c + i]!, v: (i: number) => V[c + i]! }
    packLine(words, (n * stride) >> 2, from, width, stride, line)
  }
}

/**
 * The usual way, 8-bit 4:2:0 of an even width: luma ×4, and chroma of two lines weighed 3:1, which is ×4 as well.
 */
export function packPlainFrom420([Y, U, V]: Planes8, width: number, height: number, out: Uint8Array, from = 0): void {
  const stride = v210Stride(width)
  const words = wordsOf(out)
  const cw = width >> 1
  const ch = (height + 1) >> 1
  for (let n = 0; n < height; n++) {
    const l = n * width
    const near = (n >> 1) * cw
    const far = Math.max(0, Math.min(ch - 1, (n >> 1) + (n & 1 ? 1 : -1))) * cw
    packLine(words, (n * stride) >> 2, from, width, stride, {
      y: (i) => Y[l + i]! << 2,
      u: (i) => 3 * U[near + i]! + U[far + i]!,
      v: (i) => 3 * V[near + i]! + V[far + i]!,
    })
  }
}

/** Unpacks a picture from a pixel of each line on (a multiple of six). */
export function unpackPlain(bytes: Uint8Array, width: number, height: number, [Y, U, V]: Planes10, from = 0): void {
  const words = wordsOf(bytes)
  const stride = v210Stride(width)
  const cw = (width + 1) >> 1
  for (let n = 0; n < height; n++) {
    for (let x = from, w = ((n * stride) >> 2) + (from / 6) * 4; x < width; x += 6, w += 4) {
      const [a, b, c, d] = [words[w]!, words[w + 1]!, words[w + 2]!, words[w + 3]!]
      const luma = [a >> 10, b, b >> 20, c >> 10, d, d >> 20]
      const cb = [a, b >> 10, c >> 20]
      const cr = [a >> 20, c, d >> 10]
      for (let i = 0; i < 6 && x + i < width; i++) Y[n * width + x + i] = luma[i]! & 1023
      for (let i = 0; i < 3 && x + 2 * i < width; i++) {
        U[n * cw + (x >> 1) + i] = cb[i]! & 1023
        V[n * cw + (x >> 1) + i] = cr[i]! & 1023
      }
    }
  }
}

/** Whole groups of a line, in pixels. */
const grouped = (width: number) => width - (width % 6)

/** Packs a 10-bit 4:2:2 picture; `out` begins on four bytes and has room for all lines. */
export function packV210(planes: Planes10, width: number, height: number, out: Uint8Array): void {
  const fast = kernel()
  if (!fast) return packPlain(planes, width, height, out)
  const [y, u, v, to] = fast.hold(planes, out.byteLength)
  fast.run.packV210(y!, u!, v!, width, height, v210Stride(width), to!)
  fast.take(to!, out)
  if (v210Stride(width) !== (grouped(width) / 6) * 16) packPlain(planes, width, height, out, grouped(width))
}

/** Packs an 8-bit 4:2:0 picture of an even width. */
export function packV210From420(planes: Planes8, width: number, height: number, out: Uint8Array): void {
  const fast = kernel()
  if (!fast) return packPlainFrom420(planes, width, height, out)
  const [y, u, v, to] = fast.hold(planes, out.byteLength)
  fast.run.packV210From420(y!, u!, v!, width, height, v210Stride(width), to!)
  fast.take(to!, out)
  if (v210Stride(width) !== (grouped(width) / 6) * 16) packPlainFrom420(planes, width, height, out, grouped(width))
}

/** Unpacks a picture into 10-bit 4:2:2 planes; `bytes` begins on four bytes. */
export function unpackV210(bytes: Uint8Array, width: number, height: number, planes: Planes10): void {
  const fast = kernel()
  if (!fast) return unpackPlain(bytes, width, height, planes)
  const [from, y, u, v] = fast.hold([bytes], ...planes.map((p) => p.byteLength))
  fast.run.unpackV210(from!, width, height, v210Stride(width), y!, u!, v!)
  ;[y, u, v].forEach((at, i) => fast.take(at!, planes[i]!))
  if (width % 6) unpackPlain(bytes, width, height, planes, grouped(width))
}
