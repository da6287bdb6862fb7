import { beginBins, fresh, tell } from './bins'
import {
  chroma4,
  chromaMode,
  dcLevels,
  luma4,
  luma8,
  readDelta,
  readEight,
  readMode,
  readPattern,
  readType,
  terminate,
  writeBins,
} from './cabac'
import { chromaLines } from './picture'
import { scan4, scan8, scanDc } from './tables'

// Macroblocks written by arithmetic coding: each element as the bins that reading it asks for; the plain reference is
// CabacWriter of codec/h264-intra/cabacwriter.ts.

/** Where levels go that are read while they are written. */
const back: usize = memory.data(256, 16)
/** The levels of a block, in the order they are coded. */
const list: usize = memory.data(256, 16)

/** Begins a slice that is coded by arithmetic; as for reading. */
export function intraBins(tables: usize, room: usize, count: i32): void {
  beginBins(tables)
  writeBins(tables, room, count)
}

/** Says whether another macroblock follows. */
export function more(is: bool): void {
  fresh()
  tell(is ? 0 : 1)
  terminate()
}

/** Ends a slice: the last bit is its stop bit. */
export function intraBinsEnd(): void {
  more(false)
}

function tellChroma(pattern: i32): void {
  tell(pattern > 0 ? 1 : 0)
  if (pattern > 0) tell(pattern - 1)
}

export function writeType(type: i32, mb: i32, there: i32): void {
  fresh()
  tell(type == 0 ? 0 : 1)
  if (type > 0) {
    const t = type - 1
    tell(0)
    tell(t >= 12 ? 1 : 0)
    tellChroma((t >> 2) % 3)
    tell((t >> 1) & 1)
    tell(t & 1)
  }
  readType(mb, there)
}

export function writeEight(mb: i32, there: i32): void {
  fresh()
  tell(1)
  readEight(mb, there)
}

export function writeMode(mode: i32, likely: i32): void {
  fresh()
  tell(mode == likely ? 1 : 0)
  if (mode != likely) {
    const rest = mode > likely ? mode - 1 : mode
    tell(rest & 1)
    tell((rest >> 1) & 1)
    tell(rest >> 2)
  }
  readMode(likely)
}

export function writeChromaMode(mode: i32, mb: i32, there: i32): void {
  fresh()
  for (let i = 0; i < mode; i++) tell(1)
  if (mode < 3) tell(0)
  chromaMode(mb, there)
}

export function writePattern(pattern: i32, mb: i32, there: i32): void {
  fresh()
  for (let k = 0; k < 4; k++) tell((pattern >> k) & 1)
  tellChroma(pattern >> 4)
  readPattern(mb, there)
}

export function writeDelta(delta: i32): void {
  fresh()
  const n = delta > 0 ? 2 * delta - 1 : -2 * delta
  for (let i = 0; i < n; i++) tell(1)
  tell(0)
  readDelta()
}

/** DCs that stand apart: of luma (bit 0), Cb (1) or Cr (2). */
export function writeDc(c: usize, mb: i32, there: i32, bit: i32): void {
  if (bit == 0) tellBlock(c, scan4(), 0, 16)
  else tellBlock(c, scanDc(), 0, chromaLines >> 1)
  dcLevels(back, mb, there, bit)
}

/** Fifteen levels behind a DC. */
export function writeLuma4(c: usize, mb: i32, there: i32, place: i32): void {
  tellBlock(c, scan4(), 1, 15)
  luma4(back, 15, mb, there, place)
}

export function writeChroma4(c: usize, mb: i32, there: i32, block: i32): void {
  tellBlock(c, scan4(), 1, 15)
  chroma4(back, mb, there, block)
}

export function writeLuma8(c: usize, mb: i32, quarter: i32): void {
  fresh()
  for (let i = 0; i < 64; i++) {
    const place = <usize>load<u8>(scan8(i & 3) + <usize>(i >> 2))
    store<i32>(list + <usize>(i << 2), load<i32>(c + (place << 2)))
  }
  tellLevels(64)
  luma8(back, mb, quarter)
}

function tellBlock(c: usize, scan: usize, first: i32, most: i32): void {
  fresh()
  let some = 0
  for (let i = 0; i < most; i++) {
    const v = load<i32>(c + ((<usize>load<u8>(scan + <usize>(first + i))) << 2))
    store<i32>(list + <usize>(i << 2), v)
    some |= v
  }
  tell(some ? 1 : 0)
  if (some) tellLevels(most)
}

/** The bins of levels of which one at least is not nought. */
function tellLevels(most: i32): void {
  let last = most - 1
  while (load<i32>(list + <usize>(last << 2)) == 0) last--
  for (let i = 0; i < most - 1 && i <= last; i++) {
    const used = load<i32>(list + <usize>(i << 2)) ? 1 : 0
    tell(used)
    if (used) tell(i == last ? 1 : 0)
  }
  for (let i = last; i >= 0; i--) {
    const v = load<i32>(list + <usize>(i << 2))
    if (v) tellLevel(v)
  }
}

function tellLevel(v: i32): void {
  const n = abs(v) - 1
  for (let i = min(14, n); i > 0; i--) tell(1)
  if (n < 14) tell(0)
  else {
    let rest = n - 14
    let k = 0
    for (; rest >= 1 << k; k++) {
      tell(1)
      rest -= 1 << k
    }
    tell(0)
    while (k > 0) {
      k--
      tell((rest >> k) & 1)
    }
  }
  tell(v < 0 ? 1 : 0)
}
