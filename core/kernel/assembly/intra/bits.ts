import { runCode, tokenCode, zerosCode } from './tables'

// Writing of a slice's bits; the plain reference is SliceWriter of codec/h264-intra/slicebits.ts.

let out: usize = 0
let size: i32 = 0
let held: u32 = 0
let free: i32 = 32
/** Levels of a block of 64 in a byte each: what is too large is its end. */
const narrowed: usize = memory.data(64, 16)

/** Begins behind `bits` bits that are there already; those after the last whole word are `rest`, from the top. */
export function intraBits(place: usize, bits: i32, rest: u32): void {
  out = place
  size = (bits >> 5) << 2
  held = rest
  free = 32 - (bits & 31)
}

/** Bits written so far; the last word stands behind the others. */
export function intraBitLength(): i32 {
  store<u32>(out + <usize>size, bswap<u32>(held))
  return size * 8 + 32 - free
}

export function u(n: i32, v: u32): void {
  if (n < free) {
    free -= n
    held |= v << free
    return
  }
  const over = n - free
  store<u32>(out + <usize>size, bswap<u32>(held | (v >> over)))
  size += 4
  free = 32 - over
  held = over == 0 ? 0 : v << free
}

export function ue(v: u32): void {
  const bits = 31 - <i32>clz<u32>(v + 1)
  u(bits, 0)
  u(bits + 1, v + 1)
}

export function se(v: i32): void {
  ue(v > 0 ? 2 * v - 1 : -2 * v)
}

function code(c: u32): void {
  u(<i32>(c >> 16), c & 0xffff)
}

/** Sixteen numbers as bytes: those that are nought stay it, and no others become it. */
function narrow(c: usize): v128 {
  const upper = i16x8.narrow_i32x4_s(v128.load(c), v128.load(c, 16))
  return i8x16.narrow_i16x8_s(upper, i16x8.narrow_i32x4_s(v128.load(c, 32), v128.load(c, 48)))
}

/** Which bytes are not nought, a bit each. */
function bitsOf(bytes: v128): u32 {
  return <u32>i8x16.bitmask(i8x16.ne(bytes, i8x16.splat(0)))
}

/** Writes a block of sixteen or fewer: `table` is 0 … 3 of coeff_token, 4 of chroma DC 4:2:0, 5 of 4:2:2. */
export function block(c: usize, scan: usize, first: i32, most: i32, table: i32): i32 {
  const there = bitsOf(i8x16.swizzle(narrow(c), v128.load(scan)))
  return coded(c, scan, there & (((1 << most) - 1) << first), first, most, table)
}

/** Takes a block of 64, whose four parts are then written. */
export function takeEight(c: usize): void {
  for (let i: usize = 0; i < 64; i += 16) v128.store(narrowed + i, narrow(c + (i << 2)))
}

/** Writes every fourth level of the block of 64 that was taken, of those that a scan names. */
export function partOfEight(c: usize, scan: usize, table: i32): i32 {
  const places = v128.load(scan)
  const a = i8x16.swizzle(v128.load(narrowed), places)
  const b = i8x16.swizzle(v128.load(narrowed, 16), i8x16.sub(places, i8x16.splat(16)))
  const d = i8x16.swizzle(v128.load(narrowed, 32), i8x16.sub(places, i8x16.splat(32)))
  const e = i8x16.swizzle(v128.load(narrowed, 48), i8x16.sub(places, i8x16.splat(48)))
  return coded(c, scan, bitsOf(v128.or(v128.or(a, b), v128.or(d, e))), 0, 16, table)
}

function level(c: usize, scan: usize, place: i32): i32 {
  return load<i32>(c + ((<usize>load<u8>(scan + <usize>place)) << 2))
}

function highest(bits: u32): i32 {
  return 31 - <i32>clz<u32>(bits)
}

/** Writes a block whose bits say which of its levels are not nought. Gives how many these are. */
function coded(c: usize, scan: usize, there: u32, first: i32, most: i32, table: i32): i32 {
  const total = <i32>popcnt<u32>(there)
  let left = there
  let ones = 0
  let signs: u32 = 0
  while (ones < 3 && left) {
    const place = highest(left)
    const v = level(c, scan, place)
    if (v != 1 && v != -1) break
    ones++
    signs = (signs << 1) | ((<u32>v) >> 31)
    left ^= 1 << place
  }
  const token = tokenCode(table, total * 4 + ones)
  u(<i32>(token >> 16) + ones, ((token & 0xffff) << ones) | signs)
  if (total == 0) return 0
  writeLevels(c, scan, left, total, ones)
  let place = highest(there)
  let zeros = place + 1 - first - total
  if (total < most) code(zerosCode(table < 4 ? 0 : table - 3, total, zeros))
  left = there ^ (1 << place)
  while (left && zeros > 0) {
    const next = highest(left)
    const run = place - next - 1
    code(runCode(min(zeros, 7), run))
    zeros -= run
    left ^= 1 << next
    place = next
  }
  return total
}

function writeLevels(c: usize, scan: usize, there: u32, total: i32, ones: i32): void {
  let suffix = total > 10 && ones < 3 ? 1 : 0
  let less = ones < 3 ? 2 : 0
  for (let left = there; left;) {
    const place = highest(left)
    left ^= 1 << place
    const v = level(c, scan, place)
    writeLevel((v > 0 ? 2 * v - 2 : -2 * v - 1) - less, suffix)
    less = 0
    if (suffix == 0) suffix = 1
    if (abs(v) > 3 << (suffix - 1) && suffix < 6) suffix++
  }
}

function writeLevel(number: i32, suffix: i32): void {
  const prefix = number >> suffix
  if (prefix < 15 && !(suffix == 0 && prefix >= 14)) {
    u(prefix + 1 + suffix, (1 << suffix) | (number & ((1 << suffix) - 1)))
  } else if (suffix == 0 && number < 30) {
    u(15, 1)
    u(4, number - 14)
  } else {
    let rest = number - (15 << suffix) - (suffix == 0 ? 15 : 0)
    let bits = 12
    while (rest >= 1 << bits) {
      rest -= 1 << bits
      bits++
    }
    u(bits + 3, 0)
    u(1, 1)
    u(bits, rest)
  }
}
