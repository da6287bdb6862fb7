import { intraBitLength, u } from './bits'

// The arithmetic encoder; the plain reference is CabacEncoder of codec/h264-intra/cabacwriter.ts. Bins are told first,
// and coded when they are asked for by a context.

/** Room for the bins of a block of 64 levels. */
const told: usize = memory.data(4096)
let end: i32 = 0
let at: i32 = 0
let low: u32 = 0
let range: u32 = 510
let first: bool = true
let outstanding: i32 = 0
/** States of contexts, and behind them ranges and next states, as in cabac.ts. */
let states: usize = 0

/** Begins a slice, behind its header; `tables` as for reading. */
export function beginBins(tables: usize): void {
  states = tables
  low = 0
  range = 510
  first = true
  outstanding = 0
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

function put(bit: u32): void {
  if (first) first = false
  else u(1, bit)
  for (; outstanding > 0; outstanding--) u(1, bit ^ 1)
}

function renormalise(): void {
  while (range < 256) {
    if (low < 256) put(0)
    else if (low >= 512) {
      low -= 512
      put(1)
    } else {
      low -= 256
      outstanding++
    }
    range <<= 1
    low <<= 1
  }
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
  if (low >= 1024) {
    put(1)
    low -= 1024
  } else if (low < 512) put(0)
  else {
    low -= 512
    outstanding++
  }
  return <i32>bin
}

export function codeEnd(): i32 {
  const bin = take()
  range -= 2
  if (bin) {
    low += range
    range = 2
    renormalise()
    put((low >> 9) & 1)
    u(2, ((low >> 7) & 3) | 1)
  } else renormalise()
  return <i32>bin
}
