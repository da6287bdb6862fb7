// Intra slices of MPEG-2: coefficients, weights, transform; the plain reference is codec/mpeg2/slice.ts, and doubles are
// worked out as in codec/mpeg2/transform.ts.

/** Tables: codes by as many bits as the longest of a table has, `value << 8 | length`, 0 where there is none. */
let coefficients: usize = 0
let meansOfLuma: usize = 0
let meansOfChroma: usize = 0
/** Weights of luma and chroma, where coefficients go, scales of quantisers, seven constants. */
let weights: usize = 0
let scan: usize = 0
let scales: usize = 0
let cosines: usize = 0

/** The picture: its planes, macroblocks along, and what its headers say. */
let planes: usize = 0
let columns: i32 = 0
let chroma422: bool = false
/** 0 the frame, 1 the lower field, 2 the upper one. */
let structure: i32 = 0
let choice: bool = false
let meanBits: i32 = 0

/** The bits: where they are, and the next one. */
let bytes: usize = 0
let at: i32 = 0
let last: i32 = 0

const block: usize = memory.data(128, 16)
const work: usize = memory.data(512, 16)
const lined: usize = memory.data(512, 16)
const means: usize = memory.data(12, 4)
const ended = -1
const escaped = -2

export function mpeg2Codes(
  ofCoefficients: usize,
  luma: usize,
  chroma: usize,
  weightsAt: usize,
  scanAt: usize,
  scalesAt: usize,
  cosinesAt: usize,
): void {
  coefficients = ofCoefficients
  meansOfLuma = luma
  meansOfChroma = chroma
  weights = weightsAt
  scan = scanAt
  scales = scalesAt
  cosines = cosinesAt
}

export function mpeg2Picture(planesAt: usize, along: i32, full: bool, which: i32, chosen: bool, precision: i32): void {
  planes = planesAt
  columns = along
  chroma422 = full
  structure = which
  choice = chosen
  meanBits = precision
}

/** The next bits, 25 at most. */
function look(n: i32): i32 {
  const word = bswap<u32>(load<u32>(bytes + <usize>(at >> 3))) << (at & 7)
  return <i32>(word >> (32 - n))
}

function take(n: i32): i32 {
  if (n == 0) return 0
  const v = look(n)
  at += n
  return v
}

/** What a table says of the next bits; −32768 where they are none of its codes. */
function code(table: usize, bits: i32): i32 {
  const v = load<i32>(table + ((<usize>look(bits)) << 2))
  at += v & 0xff
  return v == 0 ? -32768 : v >> 8
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

/** Writes the values of the block, whose coefficients stand column by column, from a place in a plane on. */
function put(to: usize, step: i32): void {
  for (let v = 0; v < 4; v++) {
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
  for (let y = 0; y < 8; y++, to += step) {
    const line = lined + <usize>(y << 6)
    const low = v128.shuffle<i64>(rounded(line), rounded(line + 16), 0, 2)
    const high = v128.shuffle<i64>(rounded(line + 32), rounded(line + 48), 0, 2)
    const words = i16x8.narrow_i32x4_s(low, high)
    v128.store64_lane(to, i8x16.narrow_i16x8_u(words, words), 0)
  }
}

function rounded(from: usize): v128 {
  return i32x4.trunc_sat_f64x2_s_zero(f64x2.nearest(v128.load(from)))
}

/** Reads a block of a plane into {@link block}, column by column; false where it is damaged. */
function read(k: i32, scale: i32): bool {
  if (at > last) return false
  memory.fill(block, 0, 128)
  const size = k == 0 ? code(meansOfLuma, 9) : code(meansOfChroma, 10)
  if (size < 0) return false
  const place = means + <usize>(k << 2)
  if (size > 0) {
    const v = take(size)
    store<i32>(place, load<i32>(place) + (v >> (size - 1) ? v : v - (1 << size) + 1))
  }
  const mean = <i32>(<i16>(load<i32>(place) << (3 - meanBits)))
  store<i16>(block, <i16>mean)
  let sum = mean
  const w = weights + <usize>(k == 0 ? 0 : 64)
  for (let i = 1; ; i++) {
    const v = code(coefficients, 16)
    if (v == ended) break
    let level = 0
    if (v == escaped) {
      i += take(6)
      level = (take(12) << 20) >> 20
    } else {
      if (v < 0) return false
      i += v >> 6
      level = take(1) ? -(v & 63) : v & 63
    }
    if (i > 63 || at > last) return false
    const to = <i32>load<u8>(scan + <usize>i)
    const value = level * <i32>load<u8>(w + <usize>to) * scale
    const whole = value < 0 ? -(-value >> 4) : value >> 4
    const held = min(2047, max(-2048, whole))
    store<i16>(block + <usize>((((to & 7) << 3) | (to >> 3)) << 1), <i16>held)
    sum += held
  }
  // mismatch control
  if ((sum & 1) == 0) store<i16>(block + 126, load<i16>(block + 126) ^ 1)
  return true
}

/**
 * Decodes a slice of a line of macroblocks, from its first bit to its last byte: gives how many macroblocks it has, all
 * from the line's first on; −1 where it is damaged, or not as simple as that.
 */
export function mpeg2Slice(from: usize, size: i32, row: i32): i32 {
  bytes = from
  at = 0
  last = size * 8 + 32
  let scale = <i32>load<u8>(scales + <usize>take(5))
  if (take(1)) return -1
  for (let k = 0; k < 3; k++) store<i32>(means + <usize>(k << 2), 128 << meanBits)
  const lines = structure == 0 ? 1 : 2
  let x = 0
  do {
    // one that is not the next one is for the plain reader to refuse
    if (x == columns || take(1) == 0) return -1
    if (take(1) == 0) {
      if (take(1) == 0) return -1
      const fields = choice && take(1) == 1
      scale = <i32>load<u8>(scales + <usize>take(5))
      if (!macroblock(x, row, lines, fields, scale)) return -1
    } else if (!macroblock(x, row, lines, choice && take(1) == 1, scale)) return -1
    x++
  } while (look(23) != 0)
  return at > last ? -1 : x
}

function macroblock(x: i32, row: i32, lines: i32, fields: bool, scale: i32): bool {
  const count = chroma422 ? 8 : 6
  for (let i = 0; i < count; i++) {
    const k = i < 4 ? 0 : 1 + (i & 1)
    if (!read(k, scale)) return false
    const width = k == 0 ? columns << 4 : columns << 3
    const left = k == 0 ? (x << 4) + ((i & 1) << 3) : x << 3
    const top = k == 0 || chroma422 ? row << 4 : row << 3
    const below = k == 0 ? i >> 1 : (i - 4) >> 1
    // chroma of 4:2:0 has too few lines to be in fields
    const apart = fields && (k == 0 || chroma422)
    const parity = structure == 1 ? 1 : 0
    const line = top * lines + parity + (apart ? below : (below << 3) * lines)
    put(<usize>load<u32>(planes + <usize>(k << 2)) + <usize>(line * width + left), width * (apart ? 2 : lines))
  }
  return true
}
