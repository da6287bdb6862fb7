// Coefficients of a block of MPEG-2 back into samples; doubles are worked out as in codec/mpeg2/transform.ts.

/** Seven constants: cos(k π / 16) / 2. */
let cosines: usize = 0

/** Coefficients, column by column, 16 bits each. */
const block: usize = memory.data(128, 16)
const work: usize = memory.data(512, 16)
const lined: usize = memory.data(512, 16)

/** By its bits: whether the block has its mean, and below that in which pairs of lines it has others. */
let used: i32 = 0

/** Begins a block of nothing. */
export function clear(): void {
  memory.fill(block, 0, 128)
  used = 0
}

/** Sets a coefficient by its place, line by line. */
export function set(at: i32, value: i32): void {
  store<i16>(block + <usize>((((at & 7) << 3) | (at >> 3)) << 1), <i16>value)
  used |= at == 0 ? 1 : 0x10 << (at >> 4)
}

/** Makes the sum of all coefficients odd (mismatch control, H.262 7.4.4). */
export function oddify(sum: i32): void {
  if (sum & 1) return
  const place = block + 126
  store<i16>(place, load<i16>(place) ^ 1)
  used |= 0x80
}

export function setCosines(place: usize): void {
  cosines = place
}

function c(k: i32): v128 {
  return v128.load64_splat(cosines + <usize>(k << 3))
}

function add(a: v128, b: v128): v128 {
  return f64x2.add(a, b)
}

function sub(a: v128, b: v128): v128 {
  return f64x2.sub(a, b)
}

function mul(a: v128, k: i32): v128 {
  return f64x2.mul(a, c(k))
}

function doubles(from: usize): v128 {
  return f64x2.convert_low_i32x4_s(i32x4.extend_low_i16x8_s(v128.load32_zero(from)))
}

/** Eight values, for two of them side by side, into `out`, 64 bytes apart. */
function eight(x0: v128, x1: v128, x2: v128, x3: v128, x4: v128, x5: v128, x6: v128, x7: v128, out: usize): void {
  const a = mul(add(x0, x4), 4)
  const b = mul(sub(x0, x4), 4)
  const d = add(mul(x2, 2), mul(x6, 6))
  const e = sub(mul(x2, 6), mul(x6, 2))
  const e0 = add(a, d)
  const e1 = add(b, e)
  const e2 = sub(b, e)
  const e3 = sub(a, d)
  const o0 = add(add(add(mul(x1, 1), mul(x3, 3)), mul(x5, 5)), mul(x7, 7))
  const o1 = sub(sub(sub(mul(x1, 3), mul(x3, 7)), mul(x5, 1)), mul(x7, 5))
  const o2 = add(add(sub(mul(x1, 5), mul(x3, 1)), mul(x5, 7)), mul(x7, 3))
  const o3 = sub(add(sub(mul(x1, 7), mul(x3, 5)), mul(x5, 3)), mul(x7, 1))
  v128.store(out, add(e0, o0))
  v128.store(out, add(e1, o1), 64)
  v128.store(out, add(e2, o2), 128)
  v128.store(out, add(e3, o3), 192)
  v128.store(out, sub(e3, o3), 256)
  v128.store(out, sub(e2, o2), 320)
  v128.store(out, sub(e1, o1), 384)
  v128.store(out, sub(e0, o0), 448)
}

/** Two values of two columns that stand one after the other, line by line of columns. */
function pair(column: usize, v: i32): v128 {
  return v128.load64_lane(column + <usize>(64 + (v << 3)), v128.load64_zero(column + <usize>(v << 3)), 1)
}

/** Eight zeros for two lines, as {@link eight} leaves them. */
function zeros(out: usize): void {
  const zero = i64x2.splat(0)
  for (let k = 0; k < 8; k++, out += 64) v128.store(out, zero)
}

/** The values of {@link block}, line by line. */
function values(): void {
  if (used == 1) {
    // most blocks that lean on others, of few coefficients, have the mean alone
    const v = mul(mul(f64x2.splat(<f64>load<i16>(block)), 4), 4)
    for (let i: usize = 0; i < 512; i += 16) v128.store(lined + i, v)
    return
  }
  for (let v = 0; v < 4; v++) {
    if (!(used & (v == 0 ? 0x11 : 0x10 << v))) {
      zeros(work + <usize>(v << 4))
      continue
    }
    const from = block + <usize>(v << 2)
    eight(
      doubles(from),
      doubles(from + 16),
      doubles(from + 32),
      doubles(from + 48),
      doubles(from + 64),
      doubles(from + 80),
      doubles(from + 96),
      doubles(from + 112),
      work + <usize>(v << 4),
    )
  }
  // columns now stand one after the other, 64 bytes each: two of them at a time go down
  for (let x = 0; x < 4; x++) {
    const column = work + <usize>(x << 7)
    const lines = lined + <usize>(x << 4)
    eight(
      pair(column, 0),
      pair(column, 1),
      pair(column, 2),
      pair(column, 3),
      pair(column, 4),
      pair(column, 5),
      pair(column, 6),
      pair(column, 7),
      lines,
    )
  }
}

/** Writes the values of the block from a place in a plane on, or adds them to what is there. */
export function put(to: usize, step: i32, added: bool): void {
  values()
  for (let y = 0; y < 8; y++, to += step) {
    const line = lined + <usize>(y << 6)
    const there = added ? i16x8.extend_low_i8x16_u(v128.load64_zero(to)) : i64x2.splat(0)
    const left = i32x4.extend_low_i16x8_s(there)
    const right = i32x4.extend_high_i16x8_s(there)
    const low = v128.shuffle<i64>(rounded(line, left), rounded(line + 16, upper(left)), 0, 2)
    const high = v128.shuffle<i64>(rounded(line + 32, right), rounded(line + 48, upper(right)), 0, 2)
    const words = i16x8.narrow_i32x4_s(low, high)
    v128.store64_lane(to, i8x16.narrow_i16x8_u(words, words), 0)
  }
}

function upper(v: v128): v128 {
  return v128.shuffle<i64>(v, v, 1, 1)
}

/** Two values and what they are added to, rounded once. */
function rounded(from: usize, there: v128): v128 {
  return i32x4.trunc_sat_f64x2_s_zero(f64x2.nearest(add(v128.load(from), f64x2.convert_low_i32x4_s(there))))
}
