// Codes of a part of a slice of SMPTE RDD 36; the plain reference is Bits of codec/rdd36/blocks.ts.

let bytes: usize = 0
export let end: i32 = 0
/** Bits taken so far. */
export let at: i32 = 0
/** The next bits, from the highest on: so many of them are there, or all that are left; zeros behind. */
export let word: u64 = 0
export let held: i32 = 0
const mostZeros = 18
/** Codes of so many bits at most are looked up. */
const short: u64 = 8

/** Begins at the first bit of so many bytes. */
export function open(from: usize, size: i32): void {
  bytes = from
  end = size << 3
  fill(0)
}

/** Fills {@link word} from a bit on. */
export function fill(from: i32): void {
  at = from
  const into: u64 = at & 7
  word = bswap<u64>(load<u64>(bytes + <usize>(at >> 3))) << into
  held = 64 - (at & 7)
  const left = end - at
  if (left >= 64) return
  const beyond: u64 = 64 - left
  word = left <= 0 ? 0 : (word >> beyond) << beyond
}

function skip(length: i32): void {
  at += length
  held -= length
  const by: u64 = length
  word <<= by
}

function head(): u64 {
  return word >> (64 - short)
}

/**
 * What the next code says, by its table: `length << 16 | value` for each of the {@link short} bits it begins with, 0
 * where it is longer; behind them its numbers, `last | rice << 8 | exponent << 16`. −1 where there is none such.
 */
export function takeCode(table: usize): i32 {
  if (held < 24) fill(at)
  const entry = load<i32>(table + ((<usize>head()) << 2))
  if (entry) {
    skip(entry >> 16)
    return at > end ? -1 : entry & 0xffff
  }
  return long(table)
}

/** A code that is not in its table. */
export function long(table: usize): i32 {
  const code = load<i32>(table + 1024)
  fill(at)
  const zeros = <i32>clz(word)
  if (zeros > mostZeros) return -1
  const last = code & 255
  const rice = (code >> 8) & 255
  const exponent = code >> 16
  const few = zeros <= last
  const length = zeros + (few ? 1 + rice : exponent - last + zeros)
  const behind: u64 = 64 - length
  const v = <i32>(word >> behind)
  skip(length)
  if (at > end) return -1
  return few ? v - (1 << rice) + (zeros << rice) : v - (1 << exponent) + ((last + 1) << rice)
}

/** Whether nothing is left but a few zeros; {@link fill} comes before it. */
export function isOver(): bool {
  return end - at < 32 && word == 0
}
