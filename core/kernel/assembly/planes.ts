// Depth, chroma lines and differences of planes; the plain references are in ../planes.ts. All places are bytes.

/** 8 bits to 10: codes ×4. */
export function deepen(from: usize, count: i32, to: usize): void {
  for (let i = 0; i < count; i += 16) {
    const v = v128.load(from + <usize>i)
    v128.store(to + <usize>(i << 1), i16x8.shl(i16x8.extend_low_i8x16_u(v), 2))
    v128.store(to + <usize>(i << 1), i16x8.shl(i16x8.extend_high_i8x16_u(v), 2), 16)
  }
}

/** 10 bits to 8, rounded; never over 255. */
export function flatten(from: usize, count: i32, to: usize): void {
  const half = i16x8.splat(2)
  for (let i = 0; i < count; i += 16) {
    const a = i16x8.shr_u(i16x8.add(v128.load(from + <usize>(i << 1)), half), 2)
    const b = i16x8.shr_u(i16x8.add(v128.load(from + <usize>(i << 1), 16), half), 2)
    v128.store(to + <usize>i, i8x16.narrow_i16x8_u(a, b))
  }
}

/**
 * 10 bits to 8, dithered: `even` and `odd` are what is added to two samples side by side of such lines. What is written
 * beyond a line's end the next one writes over.
 */
export function dither(from: usize, width: i32, lines: i32, even: i32, odd: i32, to: usize): void {
  for (let y = 0; y < lines; y++) {
    const more = i32x4.splat(y & 1 ? odd : even)
    const line = from + <usize>((y * width) << 1)
    const out = to + <usize>(y * width)
    for (let x = 0; x < width; x += 16) {
      const a = i16x8.shr_u(i16x8.add(v128.load(line + <usize>(x << 1)), more), 2)
      const b = i16x8.shr_u(i16x8.add(v128.load(line + <usize>(x << 1), 16), more), 2)
      v128.store(out + <usize>x, i8x16.narrow_i16x8_u(a, b))
    }
  }
}

/** Chroma lines of 4:2:0 brought to those of 4:2:2, each three parts of the near line and one of the far. */
export function upChroma(bytes: i32, from: usize, width: i32, lines: i32, height: i32, to: usize): void {
  const half = i16x8.splat(2)
  const size = width * bytes
  for (let y = 0; y < height; y++) {
    const near = from + <usize>((y >> 1) * size)
    const far = from + <usize>(max(0, min(lines - 1, (y >> 1) + (y & 1 ? 1 : -1))) * size)
    const out = to + <usize>(y * size)
    for (let i: usize = 0; i < <usize>size; i += 16) {
      const n = v128.load(near + i)
      const f = v128.load(far + i)
      if (bytes === 2) {
        v128.store(out + i, i16x8.shr_u(i16x8.add(i16x8.add(i16x8.add(i16x8.shl(n, 1), n), f), half), 2))
        continue
      }
      const nl = i16x8.extend_low_i8x16_u(n)
      const nh = i16x8.extend_high_i8x16_u(n)
      const l = i16x8.add(i16x8.add(i16x8.add(i16x8.shl(nl, 1), nl), i16x8.extend_low_i8x16_u(f)), half)
      const h = i16x8.add(i16x8.add(i16x8.add(i16x8.shl(nh, 1), nh), i16x8.extend_high_i8x16_u(f)), half)
      v128.store(out + i, i8x16.narrow_i16x8_u(i16x8.shr_u(l, 2), i16x8.shr_u(h, 2)))
    }
  }
}

/** Chroma lines of 4:2:2 brought to those of 4:2:0: pairs are averaged, halves rounded up. */
export function downChroma(bytes: i32, from: usize, width: i32, lines: i32, height: i32, to: usize): void {
  const size = width * bytes
  for (let y = 0; y < height; y++) {
    const a = from + <usize>(2 * y * size)
    const b = from + <usize>(min(2 * y + 1, lines - 1) * size)
    const out = to + <usize>(y * size)
    for (let i: usize = 0; i < <usize>size; i += 16) {
      const p = v128.load(a + i)
      const q = v128.load(b + i)
      v128.store(out + i, bytes === 2 ? i16x8.avgr_u(p, q) : i8x16.avgr_u(p, q))
    }
  }
}

/** Eight samples of 8 or 10 bits as 8 bits. */
function eight(at: usize, i: i32, bytes: i32): v128 {
  return bytes === 2 ? i16x8.shr_u(v128.load(at + <usize>(i << 1)), 2) : v128.load8x8_u(at + <usize>i)
}

/** Sum of absolute differences of two planes, as 8-bit codes; `count` is a multiple of eight. */
export function difference(a: usize, aBytes: i32, b: usize, bBytes: i32, count: i32): i64 {
  let sum = i64x2.splat(0)
  for (let i = 0; i < count;) {
    // 32-bit sums hold as much as this
    const end = min(count, i + 65536)
    let part = i32x4.splat(0)
    for (; i < end; i += 8) {
      const d = i16x8.abs(i16x8.sub(eight(a, i, aBytes), eight(b, i, bBytes)))
      part = i32x4.add(part, i32x4.extadd_pairwise_i16x8_u(d))
    }
    sum = i64x2.add(sum, i64x2.extend_low_i32x4_u(part))
    sum = i64x2.add(sum, i64x2.extend_high_i32x4_u(part))
  }
  return i64x2.extract_lane(sum, 0) + i64x2.extract_lane(sum, 1)
}
