// Y′CbCr and R′G′B′ as numbers of 32 bits, four at a time: what conversions of colour share. All places are bytes.

export function number(list: usize, i: i32): v128 {
  return v128.load32_splat(list + <usize>(i << 2))
}

/** Four samples, of 8 bits in bytes or 10 in 16-bit words. */
export function samples(at: usize, i: i32, bytes: i32): v128 {
  const four =
    bytes == 1
      ? i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(at + <usize>i)))
      : i32x4.extend_low_i16x8_u(v128.load64_zero(at + <usize>(i << 1)))
  return f32x4.convert_i32x4_s(four)
}

/** What three numbers are together, by three weights of a list. */
export function row(c: usize, i: i32, p: v128, q: v128, o: v128): v128 {
  const two = f32x4.add(f32x4.mul(number(c, i), p), f32x4.mul(number(c, i + 1), q))
  return f32x4.add(two, f32x4.mul(number(c, i + 2), o))
}

/** Four codes as words, rounded and held between two; what is no number is the least. */
export function codes(v: v128, least: v128, most: v128): v128 {
  const whole = f32x4.floor(f32x4.add(v, f32x4.splat(0.5)))
  const words = i32x4.trunc_sat_f32x4_s(f32x4.pmin(f32x4.pmax(least, whole), most))
  return i16x8.narrow_i32x4_u(words, words)
}

/** Differences of a line as numbers around 0; the last is there twice more. */
export function differences(plane: usize, from: i32, count: i32, bytes: i32, grey: v128, to: usize): void {
  for (let i = 0; i < count; i += 4) v128.store(to + <usize>(i << 2), f32x4.sub(samples(plane, from + i, bytes), grey))
  const end = to + <usize>(count << 2)
  const last = load<f32>(end - 4)
  store<f32>(end, last)
  store<f32>(end, last, 4)
}

/** The difference of each of four samples: every other one has its own, those between the mean of their neighbours'. */
export function between(line: usize, x: i32): v128 {
  const d = v128.load(line + <usize>(x << 1))
  const even = v128.shuffle<i32>(d, d, 0, 0, 1, 1)
  const next = v128.shuffle<i32>(d, d, 0, 1, 1, 2)
  return f32x4.mul(f32x4.add(even, next), f32x4.splat(0.5))
}

/** Gives a line of differences, which begins at its second, its first and its last once more. */
export function doubledEnds(line: usize, width: i32): void {
  const end = line + <usize>(width << 2)
  store<f32>(line, load<f32>(line, 4))
  store<f32>(end, load<f32>(end), 4)
}

/** Differences of every other sample, out of those of all: of three, the middle one twice; into codes. */
export function halved(line: usize, count: i32, grey: v128, weight: v128, least: v128, most: v128, to: usize): void {
  for (let x = 0; x < count; x += 4) {
    const at = line + <usize>(x << 3)
    const a = v128.load(at)
    const b = v128.load(at, 16)
    const odd = v128.shuffle<i32>(a, b, 1, 3, 5, 7)
    const before = v128.shuffle<i32>(a, b, 0, 2, 4, 6)
    const after = v128.shuffle<i32>(v128.load(at, 8), v128.load(at, 24), 0, 2, 4, 6)
    const d = f32x4.add(f32x4.add(before, f32x4.add(odd, odd)), after)
    const words = codes(f32x4.add(grey, f32x4.mul(weight, d)), least, most)
    v128.store64_lane(to + <usize>(x << 1), words, 0)
  }
}
