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

/** One sample of a line out: the sums of its weighed samples, in four parts. `count` is a multiple of eight. */
function sum(mid: usize, first: usize, weights: usize, count: i32): v128 {
  const from = mid + ((<usize>load<i32>(first)) << 1)
  let s = i32x4.dot_i16x8_s(v128.load(from), v128.load(weights))
  for (let k = 8; k < count; k += 8) {
    const at = <usize>(k << 1)
    s = i32x4.add(s, i32x4.dot_i16x8_s(v128.load(from + at), v128.load(weights + at)))
  }
  return s
}

/** Four samples of a line out, rounded to whole steps. */
function four(mid: usize, first: usize, weights: usize, count: i32, shift: i32): v128 {
  const next = <usize>(count << 1)
  const p = sum(mid, first, weights, count)
  const q = sum(mid, first + 4, weights + next, count)
  const r = sum(mid, first + 8, weights + 2 * next, count)
  const s = sum(mid, first + 12, weights + 3 * next, count)
  const pq = i32x4.add(v128.shuffle<i32>(p, q, 0, 1, 4, 5), v128.shuffle<i32>(p, q, 2, 3, 6, 7))
  const rs = i32x4.add(v128.shuffle<i32>(r, s, 0, 1, 4, 5), v128.shuffle<i32>(r, s, 2, 3, 6, 7))
  const all = i32x4.add(v128.shuffle<i32>(pq, rs, 0, 2, 4, 6), v128.shuffle<i32>(pq, rs, 1, 3, 5, 7))
  return i32x4.shr_s(i32x4.add(all, i32x4.splat(1 << (shift - 1))), shift)
}

/**
 * Scales a plane of `bits` (8 in bytes, 10 in 16-bit words). `src` is the first column used of the first line, `stride`
 * in samples; for each of `height` lines out `vFirst` gives the first line in and `vWeights` `vCount` weights, for each
 * of `width` samples (a multiple of eight) `hFirst` and `hWeights` the same of columns, from the first one used. `mid`
 * has room for a line, `dst` for all lines out, one after the other.
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
  mid: usize,
  dst: usize,
): void {
  const wide = bits > 8
  const bytes = wide ? 2 : 1
  const shift = wide ? 18 : 20
  const most = i16x8.splat(1023)
  const none = i16x8.splat(0)
  for (let y = 0; y < height; y++) {
    const line = src + <usize>load<i32>(vFirst + <usize>(y << 2)) * stride * bytes
    const weights = vWeights + <usize>(y * vCount * 2)
    if (wide) down16(line, stride, columns, weights, vCount, mid)
    else down8(line, stride, columns, weights, vCount, mid)
    let out = dst + <usize>(y * width * bytes)
    for (let x = 0; x < width; x += 8) {
      const first = hFirst + <usize>(x << 2)
      const at = hWeights + <usize>(x * hCount * 2)
      const left = four(mid, first, at, hCount, shift)
      const right = four(mid, first + 16, at + <usize>(8 * hCount), hCount, shift)
      const eight = i16x8.narrow_i32x4_s(left, right)
      if (wide) {
        v128.store(out, i16x8.max_s(none, i16x8.min_s(most, eight)))
        out += 16
      } else {
        v128.store64_lane(out, i8x16.narrow_i16x8_u(eight, eight), 0)
        out += 8
      }
    }
  }
}
