// Packing and unpacking of v210, six pixels in 16 bytes; the plain reference is ../v210.ts. All places are bytes.

/** Six luma samples, and three of each colour difference, as four words: Cb Y Cr, Y Cb Y, Cr Y Cb, Y Cr Y. */
function words(y: v128, u: v128, v: v128): v128 {
  const least = i16x8.splat(4)
  const most = i16x8.splat(1019)
  // lanes six and seven are nothing: the upper halves of words are taken from there
  const luma = v128.and(i16x8.min_u(i16x8.max_u(y, least), most), i16x8(-1, -1, -1, -1, -1, -1, 0, 0))
  const uv = v128.shuffle<i64>(u, v, 0, 2)
  const colour = i16x8.min_u(i16x8.max_u(uv, least), most)
  const a = v128.shuffle<i16>(luma, colour, 8, 7, 1, 7, 13, 7, 4, 7)
  const b = v128.shuffle<i16>(luma, colour, 0, 7, 9, 7, 3, 7, 14, 7)
  const c = v128.shuffle<i16>(luma, colour, 12, 7, 2, 7, 10, 7, 5, 7)
  return v128.or(a, v128.or(i32x4.shl(b, 10), i32x4.shl(c, 20)))
}

/** Packs the whole groups of a picture of 10 bits and 4:2:2; `stride` is bytes of a line out. */
export function packV210(y: usize, u: usize, v: usize, width: i32, height: i32, stride: i32, out: usize): void {
  const groups = width / 6
  const cw = (width + 1) >> 1
  for (let line = 0; line < height; line++) {
    let l = y + <usize>(line * width * 2)
    let cb = u + <usize>(line * cw * 2)
    let cr = v + <usize>(line * cw * 2)
    let w = out + <usize>(line * stride)
    for (let g = 0; g < groups; g++) {
      v128.store(w, words(v128.load(l), v128.load64_zero(cb), v128.load64_zero(cr)))
      l += 12
      cb += 6
      cr += 6
      w += 16
    }
  }
}

/** A chroma line between two, from 8 bits to 10: three parts of the near one, one of the far. */
function between(near: usize, far: usize): v128 {
  const n = v128.load8x8_u(near)
  return i16x8.add(i16x8.add(i16x8.shl(n, 1), n), v128.load8x8_u(far))
}

/** Packs the whole groups of a picture of 8 bits and 4:2:0. */
export function packV210From420(y: usize, u: usize, v: usize, width: i32, height: i32, stride: i32, out: usize): void {
  const groups = width / 6
  const cw = width >> 1
  const ch = (height + 1) >> 1
  for (let line = 0; line < height; line++) {
    const n = (line >> 1) * cw
    const f = max(0, min(ch - 1, (line >> 1) + (line & 1 ? 1 : -1))) * cw
    let l = y + <usize>(line * width)
    let w = out + <usize>(line * stride)
    for (let g = 0; g < groups; g++) {
      const c = <usize>(g * 3)
      const cb = between(u + <usize>n + c, u + <usize>f + c)
      const cr = between(v + <usize>n + c, v + <usize>f + c)
      v128.store(w, words(i16x8.shl(v128.load8x8_u(l), 2), cb, cr))
      l += 6
      w += 16
    }
  }
}

/** Unpacks the whole groups of a picture; what lies behind a line is written over and must be there. */
export function unpackV210(bytes: usize, width: i32, height: i32, stride: i32, y: usize, u: usize, v: usize): void {
  const groups = width / 6
  const cw = (width + 1) >> 1
  const ten = i32x4.splat(1023)
  for (let line = 0; line < height; line++) {
    let w = bytes + <usize>(line * stride)
    let l = y + <usize>(line * width * 2)
    let cb = u + <usize>(line * cw * 2)
    let cr = v + <usize>(line * cw * 2)
    for (let g = 0; g < groups; g++) {
      const four = v128.load(w)
      const a = v128.and(four, ten)
      const b = v128.and(i32x4.shr_u(four, 10), ten)
      const c = v128.and(i32x4.shr_u(four, 20), ten)
      const lumaAB = v128.shuffle<i16>(a, b, 8, 2, 0, 12, 6, 0, 0, 0)
      v128.store(l, v128.shuffle<i16>(lumaAB, c, 0, 1, 10, 3, 4, 14, 0, 0))
      const cbAB = v128.shuffle<i16>(a, b, 0, 10, 0, 0, 0, 0, 0, 0)
      v128.store64_lane(cb, v128.shuffle<i16>(cbAB, c, 0, 1, 12, 0, 0, 0, 0, 0), 0)
      const crAB = v128.shuffle<i16>(a, b, 0, 4, 14, 0, 0, 0, 0, 0)
      v128.store64_lane(cr, v128.shuffle<i16>(crAB, c, 8, 1, 2, 0, 0, 0, 0, 0), 0)
      w += 16
      l += 12
      cb += 6
      cr += 6
    }
  }
}
