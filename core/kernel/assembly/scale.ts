import { turnLines } from './turn'

// Scaling of one plane, down its columns first, then along its rows; the plain reference is ../scale.ts.
// All places are bytes in memory; weights are 16-bit integers in 1/16384.

/** One line in between, ×64 of 8 bits: each column is the sum of `count` lines (an even number) by their weights. */
function down8(src: usize, stride: i32, columns: i32, weights: usize, count: i32, mid: usize): void {
  const half = i32x4.splat(128)
  for (let x = 0; x < columns; x += 16) {
    let a = half
    let b = half
    let c = half
    let d = half
    let line = src + <usize>x
    for (let k = 0; k < count; k += 2, line += <usize>(2 * stride)) {
      const w = v128.load32_splat(weights + <usize>(k << 1))
      const p = v128.load(line)
      const q = v128.load(line + <usize>stride)
      const lo = v128.shuffle<u8>(p, q, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23)
      const hi = v128.shuffle<u8>(p, q, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31)
      a = i32x4.add(a, i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(lo), w))
      b = i32x4.add(b, i32x4.dot_i16x8_s(i16x8.extend_high_i8x16_u(lo), w))
      c = i32x4.add(c, i32x4.dot_i16x8_s(i16x8.extend_low_i8x16_u(hi), w))
      d = i32x4.add(d, i32x4.dot_i16x8_s(i16x8.extend_high_i8x16_u(hi), w))
    }
    const at = mid + <usize>(x << 1)
    v128.store(at, i16x8.narrow_i32x4_s(i32x4.shr_s(a, 8), i32x4.shr_s(b, 8)))
    v128.store(at + 16, i16x8.narrow_i32x4_s(i32x4.shr_s(c, 8), i32x4.shr_s(d, 8)))
  }
}

/** The same of 10-bit samples in 16-bit words, ×16. */
function down16(src: usize, stride: i32, columns: i32, weights: usize, count: i32, mid: usize): void {
  const half = i32x4.splat(512)
  for (let x = 0; x < columns; x += 8) {
    let a = half
    let b = half
    let line = src + <usize>(x << 1)
    for (let k = 0; k < count; k += 2, line += <usize>(4 * stride)) {
      const w = v128.load32_splat(weights + <usize>(k << 1))
      const p = v128.load(line)
      const q = v128.load(line + <usize>(2 * stride))
      a = i32x4.add(a, i32x4.dot_i16x8_s(v128.shuffle<i16>(p, q, 0, 8, 1, 9, 2, 10, 3, 11), w))
      b = i32x4.add(b, i32x4.dot_i16x8_s(v128.shuffle<i16>(p, q, 4, 12, 5, 13, 6, 14, 7, 15), w))
    }
    v128.store(mid + <usize>(x << 1), i16x8.narrow_i32x4_s(i32x4.shr_s(a, 10), i32x4.shr_s(b, 10)))
  }
}

/** Columns worked on at once, and lines. */
const span: i32 = 64
const deep: i32 = 8

/** Eight lines' samples of one column out: the sums of `count` columns (an even number) by their weights. */
function along(column: usize, weights: usize, count: i32, shift: i32): v128 {
  let lo = i32x4.splat(1 << (shift - 1))
  let hi = lo
  for (let k = 0; k < count; k += 2) {
    const p = v128.load(column)
    const q = v128.load(column, 16)
    const w = v128.load32_splat(weights)
    lo = i32x4.add(lo, i32x4.dot_i16x8_s(v128.shuffle<i16>(p, q, 0, 8, 1, 9, 2, 10, 3, 11), w))
    hi = i32x4.add(hi, i32x4.dot_i16x8_s(v128.shuffle<i16>(p, q, 4, 12, 5, 13, 6, 14, 7, 15), w))
    column += 32
    weights += 4
  }
  return i16x8.narrow_i32x4_s(i32x4.shr_s(lo, shift), i32x4.shr_s(hi, shift))
}

/**
 * Scales a plane of `bits` (8 in bytes, 10 in 16-bit words). `src` is the first column used of the first line, `stride`
 * in samples; for each of `height` lines out `vFirst` gives the first line in and `vWeights` `vCount` weights, for each
 * of `width` samples (a multiple of eight) `hFirst` and `hWeights` the same of columns, from the first one used.
 * Eight lines are made at once: columns of them stand in `turned`, which has room for `columns` of 16 bytes; `near`
 * has room for 1280 bytes, `dst` for all lines out, one after the other.
 */
export function scale(
  bits: i32,
  src: usize,
  stride: i32,
  columns: i32,
  vFirst: usize,
  vWeights: usize,
  vCount: i32,
  hFirst: usize,
  hWeights: usize,
  hCount: i32,
  width: i32,
  height: i32,
  turned: usize,
  near: usize,
  dst: usize,
): void {
  const wide = bits > 8
  const bytes = wide ? 2 : 1
  const shift = wide ? 18 : 20
  const pitch = <usize>(span * 2)
  const most = i16x8.splat(1023)
  const none = i16x8.splat(0)
  for (let y = 0; y < height; y += deep) {
    const lines = min(deep, height - y)
    for (let x = 0; x < columns; x += span) {
      const n = min(span, columns - x)
      for (let j = 0; j < lines; j++) {
        const line = src + <usize>((load<i32>(vFirst + <usize>((y + j) << 2)) * stride + x) * bytes)
        const weights = vWeights + <usize>((y + j) * vCount * 2)
        if (wide) down16(line, stride, n, weights, vCount, near + <usize>j * pitch)
        else down8(line, stride, n, weights, vCount, near + <usize>j * pitch)
      }
      for (let i = 0; i < n; i += 8) turnLines(near + <usize>(i << 1), pitch, turned + <usize>((x + i) << 4))
    }
    for (let x = 0; x < width; x += 8) {
      for (let i = 0; i < 8; i++) {
        const column = turned + ((<usize>load<i32>(hFirst + <usize>((x + i) << 2))) << 4)
        v128.store(near + <usize>(i << 4), along(column, hWeights + <usize>((x + i) * hCount * 2), hCount, shift))
      }
      turnLines(near, 16, near + 128)
      let out = dst + <usize>((y * width + x) * bytes)
      for (let j = 0; j < lines; j++) {
        const eight = v128.load(near + 128 + <usize>(j << 4))
        if (wide) v128.store(out, i16x8.max_s(none, i16x8.min_s(most, eight)))
        else v128.store64_lane(out, i8x16.narrow_i16x8_u(eight, eight), 0)
        out += <usize>(width * bytes)
      }
    }
  }
}
