// Samples that stand out from those above and below; the plain reference is ../combing.ts. All places are bytes.

/** Sixteen samples as 8-bit codes. */
function codes(at: usize, bytes: i32): v128 {
  if (bytes === 1) return v128.load(at)
  return i8x16.narrow_i16x8_u(i16x8.shr_u(v128.load(at), 2), i16x8.shr_u(v128.load(at, 16), 2))
}

/** How many of sixteen samples are more than `most` over both their neighbours, or under both. */
function standing(bytes: i32, at: usize, from: usize, line: usize, most: v128): i32 {
  const v = codes(at, bytes)
  const a = codes(from - line, bytes)
  const b = codes(from + line, bytes)
  const over = i8x16.min_u(i8x16.sub_sat_u(v, a), i8x16.sub_sat_u(v, b))
  const under = i8x16.min_u(i8x16.sub_sat_u(a, v), i8x16.sub_sat_u(b, v))
  return popcnt(i8x16.bitmask(i8x16.gt_u(i8x16.max_u(over, under), most)))
}

/**
 * Counts over two pictures, `width` (a multiple of sixteen) by `height`. Writes three integers: of the
 * picture's own lines, of its even ones among the odd ones of the picture before, and the other way.
 */
export function combing(bytes: i32, own: usize, before: usize, width: i32, height: i32, most: i32, out: usize): void {
  const limit = i8x16.splat(<i8>most)
  const line = <usize>(width * bytes)
  let alone = 0
  let even = 0
  let odd = 0
  for (let y = 1; y < height - 1; y++) {
    let among = 0
    let around = 0
    for (let x = 0; x < width; x += 16) {
      const at = <usize>((y * width + x) * bytes)
      alone += standing(bytes, own + at, own + at, line, limit)
      among += standing(bytes, own + at, before + at, line, limit)
      around += standing(bytes, before + at, own + at, line, limit)
    }
    even += y & 1 ? around : among
    odd += y & 1 ? among : around
  }
  store<i32>(out, alone)
  store<i32>(out, even, 4)
  store<i32>(out, odd, 8)
}
