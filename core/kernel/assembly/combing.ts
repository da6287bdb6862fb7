// Samples that stand out from those above and below; the plain reference is ../combing.ts. All places are bytes.

/** The sixteen samples in the middle of every 64 of a line, as 8-bit codes. */
export function columns(bytes: i32, from: usize, width: i32, height: i32, to: usize): void {
  let out = to
  for (let y = 0; y < height; y++) {
    for (let x = 0; x + 64 <= width; x += 64) {
      const at = from + <usize>((y * width + x + 24) * bytes)
      if (bytes === 1) v128.store(out, v128.load(at))
      else v128.store(out, i8x16.narrow_i16x8_u(i16x8.shr_u(v128.load(at), 2), i16x8.shr_u(v128.load(at, 16), 2)))
      out += 16
    }
  }
}

/** How many of sixteen samples are more than `most` over both their neighbours, or under both. */
function standing(at: usize, from: usize, line: usize, most: v128): i32 {
  const v = v128.load(at)
  const a = v128.load(from - line)
  const b = v128.load(from + line)
  const over = i8x16.min_u(i8x16.sub_sat_u(v, a), i8x16.sub_sat_u(v, b))
  const under = i8x16.min_u(i8x16.sub_sat_u(a, v), i8x16.sub_sat_u(b, v))
  return popcnt(i8x16.bitmask(i8x16.gt_u(i8x16.max_u(over, under), most)))
}

/**
 * Counts over two pictures of 8-bit samples, `width` (a multiple of sixteen) by `height`. Writes three integers: of the
 * picture's own lines, of its even ones among the odd ones of the picture before, and the other way.
 */
export function combing(own: usize, before: usize, width: i32, height: i32, most: i32, out: usize): void {
  const limit = i8x16.splat(<i8>most)
  const line = <usize>width
  let alone = 0
  let even = 0
  let odd = 0
  for (let y = 1; y < height - 1; y++) {
    let among = 0
    let around = 0
    for (let x = 0; x < width; x += 16) {
      const at = <usize>(y * width + x)
      alone += standing(own + at, own + at, line, limit)
      among += standing(own + at, before + at, line, limit)
      around += standing(before + at, own + at, line, limit)
    }
    even += y & 1 ? around : among
    odd += y & 1 ? among : around
  }
  store<i32>(out, alone)
  store<i32>(out, even, 4)
  store<i32>(out, odd, 8)
}
