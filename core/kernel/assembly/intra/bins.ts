import { intraBitLength, u } from './bits'

// The arithmetic encoder; the plain reference is CabacEncoder of codec/h264-intra/cabacwriter.ts. Bins are told first,
// and coded when they are asked for by a context.

/** Room for the bins of a block of 64 levels. */
const told: usize = memory.data(4096)
let end: i32 = 0
let at: i32 = 0
let low: u32 = 0
let range: u32 = 510
/** Bits of {@link low} above its ten, less the eight of a byte; the first bit of all is none of the slice. */
let ready: i32 = -9
let waiting: i32 = -1
let through: i32 = 0
/** States of contexts, and behind them ranges and next states, as in cabac.ts. */
let states: usize = 0

/** Begins a slice, behind its header; `tables` as for reading. */
export function beginBins(tables: usize): void {
  states = tables
  low = 0
  range = 510
  ready = -9
  waiting = -1
  through = 0
  while (intraBitLength() & 7) u(1, 1)
}

/** Begins an element. */
export function fresh(): void {
  end = 0
  at = 0
}

export function tell(bin: i32): void {
  store<u8>(told + <usize>end, <u8>bin)
  end++
}

function take(): u32 {
  const bin = <u32>load<u8>(told + <usize>at)
  at++
  return bin
}

/**
 * Writes the bits that are settled, a byte at a time: one that may still be carried into waits, and so do those behind
 * it that a carry would run through.
 */
function settle(): void {
  if (ready < 0) return
  const out = low >> (ready + 10)
  low &= (1 << (ready + 10)) - 1
  ready -= 8
  if ((out & 0xff) == 0xff) {
    through++
    return
  }
  carry(out >> 8)
  waiting = <i32>(out & 0xff)
}

function carry(over: u32): void {
  if (waiting >= 0) u(8, <u32>waiting + over)
  for (; through > 0; through--) u(8, (over - 1) & 0xff)
}

function renormalise(): void {
  const shift = <i32>clz<u32>(range) - 23
  range <<= shift
  low <<= shift
  ready += shift
  settle()
}

export function codeBin(context: i32, ranges: i32, nexts: i32): i32 {
  const bin = take()
  const own = states + <usize>context
  const state = <u32>load<u8>(own)
  const lesser = <u32>load<u8>(states + <usize>(ranges + <i32>(state >> 1) * 4) + <usize>((range >> 6) & 3))
  range -= lesser
  if (bin != (state & 1)) {
    low += range
    range = lesser
    const next = <u32>load<u8>(states + <usize>(nexts + <i32>(state >> 1)))
    store<u8>(own, <u8>(next * 2 + (state < 2 ? bin : state & 1)))
  } else if (state < 124) store<u8>(own, <u8>(state + 2))
  if (range < 256) renormalise()
  return <i32>bin
}

export function codeBypass(): i32 {
  const bin = take()
  low <<= 1
  if (bin) low += range
  ready++
  settle()
  return <i32>bin
}

export function codeEnd(): i32 {
  const bin = take()
  range -= 2
  if (bin) {
    low += range
    range = 2
    renormalise()
    // what is left above the ten bits, the first of these, and two more, of which the last is set (9.3.4.5)
    const bits = ready + 11
    const rest = (low >> 7) | 1
    carry(rest >> bits)
    u(bits, rest & ((1 << bits) - 1))
  } else if (range < 256) renormalise()
  return <i32>bin
}
