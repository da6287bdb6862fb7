import { codeBin, codeBypass, codeEnd } from './bins'
import { aboveMb, chromaAbove, chromaLeft, leftMb, leftOf, lumaAbove, lumaLeft } from './beside'
import { chromaLines, countsOf, kindOf, ofField } from './picture'
import { align, blame, u } from './read'
import { scan4, scan8, scanDc } from './tables'

// Macroblocks read by arithmetic coding; the plain references are CabacDecoder and CabacReader of
// codec/h264-intra. What is looked up comes with each slice: states of contexts, then the tables of that folder's
// cabac.ts and cabacreader.ts; what is known of macroblocks stands in three arrays of its own.

/** Bytes of states, of ranges, of next states; then places of 8×8 blocks: of frames, of fields, and of the last. */
const ranges: i32 = 460
const nexts: i32 = ranges + 256
const used8: i32 = nexts + 64
const last8: i32 = used8 + 126

let states: usize = 0
let chromaModes: usize = 0
let patterns: usize = 0
let dcs: usize = 0
let range: u32 = 0
let offset: u32 = 0
let changed: bool = false
/** Whether bins are written: those that were told, see bins.ts. */
let writing: bool = false
const places: usize = memory.data(64)

/** Begins a slice: `room` holds three bytes for each of `count` macroblocks. */
export function arithmetic(tables: usize, room: usize, count: i32): void {
  begin(tables, room, count)
  writing = false
  align()
  resume()
}

/** The same of a slice that is written. */
export function writeBins(tables: usize, room: usize, count: i32): void {
  begin(tables, room, count)
  writing = true
}

function begin(tables: usize, room: usize, count: i32): void {
  states = tables
  chromaModes = room
  patterns = room + <usize>count
  dcs = room + <usize>(count * 2)
  changed = false
}

export function resume(): void {
  range = 510
  offset = u(9)
}

function renormalise(): void {
  const shift = <i32>clz<u32>(range) - 23
  range <<= shift
  offset = (offset << shift) | u(shift)
}

function bin(context: i32): i32 {
  if (writing) return codeBin(context, ranges, nexts)
  const own = states + <usize>context
  const state = <i32>load<u8>(own)
  const lesser = <u32>load<u8>(states + <usize>(ranges + (state >> 1) * 4) + <usize>((range >> 6) & 3))
  range -= lesser
  if (offset >= range) {
    const other = (state & 1) ^ 1
    offset -= range
    range = lesser
    const next = <i32>load<u8>(states + <usize>(nexts + (state >> 1)))
    store<u8>(own, <u8>(next * 2 + (state < 2 ? other : state & 1)))
    renormalise()
    return other
  }
  if (state < 124) store<u8>(own, <u8>(state + 2))
  if (range < 256) renormalise()
  return state & 1
}

function bypass(): i32 {
  if (writing) return codeBypass()
  offset = (offset << 1) | u(1)
  if (offset < range) return 0
  offset -= range
  return 1
}

export function terminate(): bool {
  if (writing) return codeEnd() == 1
  range -= 2
  if (offset >= range) return true
  if (range < 256) renormalise()
  return false
}

/** 1 for what holds at the left, and `above` for what holds above: of kinds from one on. */
function kindsBeside(mb: i32, there: i32, least: i32, greatest: i32): i32 {
  let n = 0
  if (there & 1) {
    const kind = <i32>load<u8>(kindOf(leftMb(mb)))
    if (kind >= least && kind <= greatest) n++
  }
  if (there & 2) {
    const kind = <i32>load<u8>(kindOf(aboveMb(mb)))
    if (kind >= least && kind <= greatest) n++
  }
  return n
}

export function readPair(fields: i32): bool {
  return bin(70 + fields) == 1
}

export function readType(mb: i32, there: i32): i32 {
  store<u8>(chromaModes + <usize>mb, 0)
  store<u8>(patterns + <usize>mb, 0)
  store<u8>(dcs + <usize>mb, 0)
  if (bin(3 + kindsBeside(mb, there, 2, 3)) == 0) return 0
  if (terminate()) return 25
  const luma = bin(6)
  const chroma = bin(7) ? 1 + bin(8) : 0
  store<u8>(patterns + <usize>mb, <u8>((luma ? 15 : 0) | (chroma << 4)))
  const high = bin(9)
  return 1 + luma * 12 + chroma * 4 + high * 2 + bin(10)
}

export function readEight(mb: i32, there: i32): bool {
  return bin(399 + kindsBeside(mb, there, 1, 1)) == 1
}

export function readMode(likely: i32): i32 {
  if (bin(68)) return likely
  let mode = bin(69)
  mode |= bin(69) << 1
  mode |= bin(69) << 2
  return mode >= likely ? mode + 1 : mode
}

export function chromaMode(mb: i32, there: i32): i32 {
  let context = 64
  if (there & 1 && load<u8>(chromaModes + <usize>leftMb(mb))) context++
  if (there & 2 && load<u8>(chromaModes + <usize>aboveMb(mb))) context++
  let mode = 0
  if (bin(context)) {
    mode = 1
    while (mode < 3 && bin(67)) mode++
  }
  store<u8>(chromaModes + <usize>mb, <u8>mode)
  return mode
}

/** Whether a quarter of a macroblock beside is there and not coded. */
function missing(other: i32, bit: i32, at: i32): i32 {
  if (!at || load<u8>(kindOf(other)) == 3) return 0
  return (((<i32>load<u8>(patterns + <usize>other)) >> bit) & 1) ^ 1
}

function chromaBeside(other: i32, at: i32, over: i32): bool {
  if (!at) return false
  return load<u8>(kindOf(other)) == 3 || <i32>load<u8>(patterns + <usize>other) > over
}

export function readPattern(mb: i32, there: i32): i32 {
  const above = aboveMb(mb)
  const beside = leftMb(mb)
  let luma = 0
  for (let quarter = 0; quarter < 4; quarter++) {
    const line = leftOf(mb, quarter * 4, 16)
    const bit = ((line >> 2) & 2) | 1
    const a = quarter & 1 ? ((luma >> (quarter - 1)) & 1) ^ 1 : missing(line >> 4, bit, there & 1)
    const b = quarter > 1 ? ((luma >> (quarter - 2)) & 1) ^ 1 : missing(above, quarter + 2, there & 2)
    luma |= bin(73 + a + 2 * b) << quarter
  }
  let context = 77
  if (chromaBeside(beside, there & 1, 15)) context++
  if (chromaBeside(above, there & 2, 15)) context += 2
  let chroma = bin(context)
  if (chroma) {
    context = 81
    if (chromaBeside(beside, there & 1, 31)) context++
    if (chromaBeside(above, there & 2, 31)) context += 2
    chroma += bin(context)
  }
  const pattern = luma | (chroma << 4)
  store<u8>(patterns + <usize>mb, <u8>pattern)
  if (pattern == 0) changed = false
  return pattern
}

export function readDelta(): i32 {
  let n = 0
  if (bin(changed ? 61 : 60)) {
    n = 1
    let context = 62
    while (n < 256 && bin(context)) {
      n++
      context = 63
    }
    if (n > 255) blame(13)
  }
  changed = n > 0
  return n & 1 ? (n + 1) >> 1 : -(n >> 1)
}

/** Told that plain samples follow. */
export function plain(): void {
  changed = false
  align()
}

/** Whether DCs of a macroblock beside count as having levels; `whole` asks for one that is predicted as a whole. */
function dcBeside(other: i32, at: i32, bit: i32, whole: bool): i32 {
  if (!at || load<u8>(kindOf(other)) == 3) return 1
  const has = whole ? load<u8>(kindOf(other)) == 2 : load<u8>(patterns + <usize>other) > 15
  return has ? ((<i32>load<u8>(dcs + <usize>other)) >> bit) & 1 : 0
}

/** DCs that stand apart: of luma (bit 0), Cb (1) or Cr (2). */
export function dcLevels(out: usize, mb: i32, there: i32, bit: i32): void {
  const left = dcBeside(leftMb(mb), there & 1, bit, bit == 0)
  const above = dcBeside(aboveMb(mb), there & 2, bit, bit == 0)
  if (!bin((bit == 0 ? 85 : 97) + left + 2 * above)) return
  const own = dcs + <usize>mb
  store<u8>(own, <u8>((<i32>load<u8>(own)) | (1 << bit)))
  if (bit == 0) levels(out, scan4(), 0, 16, 0)
  else levels(out, scanDc(), 0, chromaLines >> 1, 3)
}

export function luma4(out: usize, count: i32, mb: i32, there: i32, place: i32): void {
  const left = lumaLeft(mb, there, place, 1)
  const above = lumaAbove(mb, there, place, 1)
  const kind = count == 16 ? 2 : 1
  store<u8>(countsOf(mb) + <usize>place, <u8>flagged(out, 16 - count, count, kind, left, above))
}

export function luma8(out: usize, mb: i32, quarter: i32): void {
  const n = <u8>levels(out, 0, 0, 64, 5)
  const own = countsOf(mb) + <usize>((quarter & 2) * 4 + (quarter & 1) * 2)
  store<u8>(own, n)
  store<u8>(own, n, 1)
  store<u8>(own, n, 4)
  store<u8>(own, n, 5)
}

export function chroma4(out: usize, mb: i32, there: i32, block: i32): void {
  const left = chromaLeft(mb, there, block, 1)
  const above = chromaAbove(mb, there, block, 1)
  store<u8>(countsOf(mb) + <usize>block, <u8>flagged(out, 1, 15, 4, left, above))
}

function flagged(out: usize, first: i32, most: i32, kind: i32, left: i32, above: i32): i32 {
  const context = 85 + kind * 4 + (left ? 1 : 0) + (above ? 2 : 0)
  return bin(context) ? levels(out, scan4(), first, most, kind) : 0
}

/** Where the contexts of a kind of block begin among those of all. */
function kindFrom(kind: i32, a: i32, b: i32, c: i32, d: i32, e: i32): i32 {
  return kind == 0 ? 0 : kind == 1 ? a : kind == 2 ? b : kind == 3 ? c : kind == 4 ? d : e
}

/** The levels of a block that has some; gives how many. */
function levels(out: usize, scan: usize, first: i32, most: i32, kind: i32): i32 {
  const used = kind == 5 ? (ofField ? 436 : 402) : (ofField ? 277 : 105) + kindFrom(kind, 15, 29, 44, 47, 0)
  const last = kind == 5 ? (ofField ? 451 : 417) : (ofField ? 338 : 166) + kindFrom(kind, 15, 29, 44, 47, 0)
  const from = 227 + kindFrom(kind, 10, 20, 30, 39, 199)
  const wide = kind == 3 ? (chromaLines == 8 ? 0 : 1) : -1
  let n = 0
  let i = 0
  for (; i < most - 1; i++) {
    let a = i
    let b = i
    if (kind == 5) {
      a = <i32>load<u8>(states + <usize>(ofField ? used8 + 63 + i : used8 + i))
      b = <i32>load<u8>(states + <usize>(last8 + i))
    } else if (wide >= 0) a = b = min(i >> wide, 2)
    if (!bin(used + a)) continue
    store<u8>(places + <usize>n, <u8>i)
    n++
    if (bin(last + b)) break
  }
  if (i == most - 1) {
    store<u8>(places + <usize>n, <u8>i)
    n++
  }
  let ones = 0
  let more = 0
  const mostMore = kind == 3 ? 3 : 4
  for (let k = n - 1; k >= 0; k--) {
    let level = 1
    if (bin(from + (more ? 0 : min(4, 1 + ones)))) {
      const context = from + 5 + min(mostMore, more)
      level = 2
      while (level < 15 && bin(context)) level++
      if (level == 15) level += suffix()
      more++
    } else ones++
    const place = <i32>load<u8>(places + <usize>k)
    const to =
      kind == 5
        ? <usize>load<u8>(scan8(place & 3) + <usize>(place >> 2))
        : <usize>load<u8>(scan + <usize>(first + place))
    store<i32>(out + (to << 2), bypass() ? -level : level)
  }
  return n
}

function suffix(): i32 {
  let k = 0
  let sum = 0
  while (bypass()) {
    sum += 1 << k
    k++
    if (k > 24) {
      blame(14)
      return 0
    }
  }
  while (k > 0) {
    k--
    sum += bypass() << k
  }
  return sum
}
