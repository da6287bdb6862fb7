import { toChroma422, toDepth, type Picture } from '../../picture/picture'

/** Bytes of one line: groups of 48 pixels in 128 bytes. */
export function v210Stride(width: number): number {
  return Math.ceil(width / 48) * 128
}

/** Bytes of one picture. */
export function v210Size(width: number, height: number): number {
  return v210Stride(width) * height
}

/** Codes that may stand in video data: 0 … 3 and 1020 … 1023 are kept for timing references (SMPTE ST 274 8.12). */
const legal = Uint16Array.from({ length: 1024 }, (_, v) => Math.max(4, Math.min(1019, v)))

/** Packs a picture as 4:2:2 10 bit, three samples in each little-endian word: Cb Y Cr, Y Cb Y, Cr Y Cb, Y Cr Y. */
export function encodeV210(picture: Picture, into?: Uint8Array): Uint8Array {
  const [y, u, v] = picture.planes
  if (
    picture.chroma === '4:2:0' &&
    y instanceof Uint8Array &&
    u instanceof Uint8Array &&
    v instanceof Uint8Array &&
    picture.width % 2 === 0
  ) {
    return packFrom420(picture.width, picture.height, y, u, v, into)
  }
  const p = toChroma422(toDepth(picture, 10))
  const { width, height } = p
  const stride = v210Stride(width)
  const out = into ?? new Uint8Array(stride * height)
  const words = new Uint32Array(out.buffer, out.byteOffset, (stride * height) >> 2)
  const [Y, U, V] = p.planes
  const cw = (width + 1) >> 1
  const whole = Math.floor(width / 6)
  for (let y = 0; y < height; y++) {
    let w = (y * stride) >> 2
    let l = y * width
    let c = y * cw
    for (let g = 0; g < whole; g++, l += 6, c += 3) {
      words[w++] = legal[U[c]!]! | (legal[Y[l]!]! << 10) | (legal[V[c]!]! << 20)
      words[w++] = legal[Y[l + 1]!]! | (legal[U[c + 1]!]! << 10) | (legal[Y[l + 2]!]! << 20)
      words[w++] = legal[V[c + 1]!]! | (legal[Y[l + 3]!]! << 10) | (legal[U[c + 2]!]! << 20)
      words[w++] = legal[Y[l + 4]!]! | (legal[V[c + 2]!]! << 10) | (legal[Y[l + 5]!]! << 20)
    }
    const left = width - whole * 6
    if (left > 0)
      w = packRest(
        words,
        w,
        left,
        (i) => legal[Y[l + i]!]!,
        (i) => legal[U[c + i]!]!,
        (i) => legal[V[c + i]!]!,
      )
    words.fill(0, w, ((y + 1) * stride) >> 2)
  }
  return out
}

/** The last pixels of a line, fewer than six; what is left of the group is black. Gives the place after it. */
function packRest(
  words: Uint32Array,
  w: number,
  left: number,
  y: (i: number) => number,
  u: (i: number) => number,
  v: (i: number) => number,
): number {
  const yy = (i: number) => (i < left ? y(i) : 64)
  const uu = (i: number) => (i * 2 < left ? u(i) : 512)
  const vv = (i: number) => (i * 2 < left ? v(i) : 512)
  words[w] = uu(0) | (yy(0) << 10) | (vv(0) << 20)
  words[w + 1] = yy(1) | (uu(1) << 10) | (yy(2) << 20)
  words[w + 2] = vv(1) | (yy(3) << 10) | (uu(2) << 20)
  words[w + 3] = yy(4) | (vv(2) << 10) | (yy(5) << 20)
  return w + 4
}

/**
 * The usual way, 8-bit 4:2:0 to v210, in one pass: luma ×4, and chroma of two lines weighed 3:1, which is ×4 as well.
 */
function packFrom420(
  width: number,
  height: number,
  Y: Uint8Array,
  U: Uint8Array,
  V: Uint8Array,
  into?: Uint8Array,
): Uint8Array {
  const stride = v210Stride(width)
  const out = into ?? new Uint8Array(stride * height)
  const words = new Uint32Array(out.buffer, out.byteOffset, (stride * height) >> 2)
  const cw = width >> 1
  const ch = (height + 1) >> 1
  const left = width % 6
  for (let y = 0; y < height; y++) {
    let w = (y * stride) >> 2
    let l = y * width
    let n = (y >> 1) * cw
    let f = Math.max(0, Math.min(ch - 1, (y >> 1) + (y & 1 ? 1 : -1))) * cw
    const end = l + width - left
    for (; l < end; l += 6, n += 3, f += 3) {
      words[w] = legal[3 * U[n]! + U[f]!]! | (legal[Y[l]! << 2]! << 10) | (legal[3 * V[n]! + V[f]!]! << 20)
      words[w + 1] = legal[Y[l + 1]! << 2]! | (legal[3 * U[n + 1]! + U[f + 1]!]! << 10) | (legal[Y[l + 2]! << 2]! << 20)
      words[w + 2] =
        legal[3 * V[n + 1]! + V[f + 1]!]! | (legal[Y[l + 3]! << 2]! << 10) | (legal[3 * U[n + 2]! + U[f + 2]!]! << 20)
      words[w + 3] = legal[Y[l + 4]! << 2]! | (legal[3 * V[n + 2]! + V[f + 2]!]! << 10) | (legal[Y[l + 5]! << 2]! << 20)
      w += 4
    }
    if (left > 0)
      w = packRest(
        words,
        w,
        left,
        (i) => legal[Y[l + i]! << 2]!,
        (i) => legal[3 * U[n + i]! + U[f + i]!]!,
        (i) => legal[3 * V[n + i]! + V[f + i]!]!,
      )
    words.fill(0, w, ((y + 1) * stride) >> 2)
  }
  return out
}

/** Unpacks one v210 picture. `bytes` must hold {@link v210Size} bytes. */
export function decodeV210(bytes: Uint8Array, width: number, height: number): Picture {
  const stride = v210Stride(width)
  const aligned = bytes.byteOffset % 4 === 0 ? bytes : bytes.slice()
  const words = new Uint32Array(aligned.buffer, aligned.byteOffset, (stride * height) >> 2)
  const cw = (width + 1) >> 1
  const Y = new Uint16Array(width * height)
  const U = new Uint16Array(cw * height)
  const V = new Uint16Array(cw * height)
  for (let y = 0; y < height; y++) {
    const row = (y * stride) >> 2
    for (let x = 0, w = row; x < width; x += 6, w += 4) {
      const [a, b, c, d] = [words[w]!, words[w + 1]!, words[w + 2]!, words[w + 3]!]
      const l = y * width + x
      const k = y * cw + (x >> 1)
      const left = width - x
      U[k] = a & 1023
      Y[l] = (a >> 10) & 1023
      V[k] = (a >> 20) & 1023
      if (left > 1) Y[l + 1] = b & 1023
      if (left > 2) {
        U[k + 1] = (b >> 10) & 1023
        Y[l + 2] = (b >> 20) & 1023
        V[k + 1] = c & 1023
      }
      if (left > 3) Y[l + 3] = (c >> 10) & 1023
      if (left > 4) {
        U[k + 2] = (c >> 20) & 1023
        Y[l + 4] = d & 1023
        V[k + 2] = (d >> 10) & 1023
      }
      if (left > 5) Y[l + 5] = (d >> 20) & 1023
    }
  }
  return { width, height, chroma: '4:2:2', bitDepth: 10, planes: [Y, U, V] }
}
