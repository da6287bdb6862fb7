import { runCode, tokenCode, zerosCode } from './tables'

// Writing of a slice's bits; the plain reference is SliceWriter of codec/h264-intra/slicebits.ts.

let out: usize = 0
let size: i32 = 0
let held: u32 = 0
let free: i32 = 32
const levels: usize = memory.data(64, 16)
const runs: usize = memory.data(64, 16)

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

/** Writes a block: `table` is 0 … 3 of coeff_token, 4 of chroma DC 4:2:0, 5 of 4:2:2. Gives how many are not zero. */
export function block(c: usize, scan: usize, first: i32, most: i32, table: i32): i32 {
  let total = 0
  let zeros = 0
  let run = 0
  let seen = false
  for (let i = first + most - 1; i >= first; i--) {
    const v = load<i32>(c + ((<usize>load<u8>(scan + <usize>i)) << 2))
    if (v == 0) {
      if (seen) {
        zeros++
        run++
      }
      continue
    }
    if (seen) store<u8>(runs + <usize>(total - 1), <u8>run)
    seen = true
    run = 0
    store<i32>(levels + <usize>(total << 2), v)
    total++
  }
  let ones = 0
  while (ones < 3 && ones < total && abs(load<i32>(levels + <usize>(ones << 2))) == 1) ones++
  code(tokenCode(table, total * 4 + ones))
  if (total == 0) return 0
  for (let i = 0; i < ones; i++) u(1, load<i32>(levels + <usize>(i << 2)) < 0 ? 1 : 0)
  writeLevels(total, ones)
  if (total < most) code(zerosCode(table < 4 ? 0 : table - 3, total, zeros))
  for (let i = 0; i < total - 1 && zeros > 0; i++) {
    const r = <i32>load<u8>(runs + <usize>i)
    code(runCode(min(zeros, 7), r))
    zeros -= r
  }
  return total
}

function writeLevels(total: i32, ones: i32): void {
  let suffix = total > 10 && ones < 3 ? 1 : 0
  for (let i = ones; i < total; i++) {
    const v = load<i32>(levels + <usize>(i << 2))
    let number = v > 0 ? 2 * v - 2 : -2 * v - 1
    if (i == ones && ones < 3) number -= 2
    writeLevel(number, suffix)
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
