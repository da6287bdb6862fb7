import { chromaContext, fieldsBeside, likelyMode, lumaContext, neighbours, there4, there8 } from './beside'
import {
  blockOrder,
  chromaLines,
  countsOf,
  extra,
  kindOf,
  modesOf,
  needs,
  offset,
  paired,
  pitch,
  qpPlace,
  rebuilt,
  setPair,
  slicePlace,
  tableOf,
} from './picture'
import * as cabac from './cabac'
import { neighbourValues } from './predict'
import { align, begin, blame, block, fault, over, intraPlace, se, u, ue } from './read'
import { add8, chroma, luma16, lumaPart } from './rebuild'
import { chromaQp, patternAt, scan4, scan8, scanDc } from './tables'
import { predict16, predictChroma } from './whole'

// Decoding of the macroblocks of a slice; the plain reference is SliceDecoder of codec/h264-intra/decode.ts.

const levels: usize = memory.data(2048, 16)
const dcs: usize = memory.data(64, 16)
const dcsOfChroma: usize = memory.data(64, 16)
let last: i32 = 0
let hasEights: bool = false
let bits: i32 = 8
/** Whether the slice is coded by arithmetic, not by variable lengths. */
let byBins: bool = false

/**
 * Decodes a slice from a bit of its payload up to its stop bit. `bins` is where the tables of arithmetic coding are,
 * with their room behind them, or nought. Gives nought, or the number of the element that makes no sense.
 */
export function intraDecode(
  payload: usize,
  size: i32,
  bit: i32,
  stop: i32,
  first: i32,
  count: i32,
  slice: i32,
  qp: i32,
  eights: bool,
  bins: usize,
  room: usize,
): i32 {
  begin(payload, size, bit)
  last = qp
  hasEights = eights
  bits = 8 + extra / 6
  byBins = bins != 0
  if (byBins) cabac.arithmetic(bins, room, count)
  for (let mb = first; mb < count; mb++) {
    if (load<u16>(slicePlace(mb)) != 0) return 7
    store<u16>(slicePlace(mb), <u16>slice)
    memory.fill(countsOf(mb), 0, 32)
    const upper = paired && !(mb & 1)
    if (upper) setPair(mb, byBins ? cabac.readPair(fieldsBeside(mb)) : u(1) == 1)
    macroblock(mb)
    if (over()) blame(8)
    if (fault) return fault
    if (upper) continue
    if (byBins ? cabac.terminate() : intraPlace() >= stop) return 0
  }
  return 6
}

function macroblock(mb: i32): void {
  const there = neighbours(mb)
  const type = byBins ? cabac.readType(mb, there) : ue()
  if (type > 25) blame(9)
  if (fault) return
  if (type == 25) return raw(mb)
  memory.fill(levels, 0, 2048)
  memory.fill(dcs, 0, 64)
  memory.fill(dcsOfChroma, 0, 64)
  if (type > 0) return whole(mb, there, type - 1)
  const eight = hasEights && (byBins ? cabac.readEight(mb, there) : u(1) == 1)
  store<u8>(kindOf(mb), eight ? 1 : 0)
  readModes(mb, there, eight)
  const chromaMode = readChromaMode(mb, there)
  const pattern = byBins ? cabac.readPattern(mb, there) : codedPattern()
  if (fault) return
  if (pattern > 0) readQp()
  store<i8>(qpPlace(mb), <i8>last)
  for (let i = 0; i < 16; i++) {
    if (((pattern >> (i >> 2)) & 1) == 0) continue
    const place = blockOrder(i)
    const c = levels + <usize>(eight ? (i >> 2) * 256 : place * 64)
    if (byBins) {
      if (!eight) cabac.luma4(c, 16, mb, there, place)
      else if (i % 4 == 0) cabac.luma8(c, mb, i >> 2)
      continue
    }
    const table = tableOf(lumaContext(mb, there, place))
    store<u8>(countsOf(mb) + place, <u8>block(c, eight ? scan8(i & 3) : scan4(), 0, 16, table))
  }
  readChroma(mb, there, pattern >> 4)
  if (fault) return
  const first = rebuilt(0) + offset(mb, 0)
  const step = pitch(0)
  for (let i = 0; i < 16; i += eight ? 4 : 1) {
    const place = blockOrder(i)
    const at = first + <usize>((place >> 2) * 4 * step + (place & 3) * 8)
    const mode = <i32>load<i8>(modesOf(mb) + place)
    neighbourValues(at, step, eight ? 8 : 4, eight ? there8(i >> 2, there) : there4(place, there), mode)
    if (eight) add8(at, mode, levels + <usize>(i * 64), last + extra)
    else lumaPart(at, mode, levels + <usize>(place * 64), last + extra)
  }
  rebuildChroma(mb, there, chromaMode)
}

function codedPattern(): i32 {
  const number = ue()
  if (number <= 47) return patternAt(number)
  blame(10)
  return 0
}

function readModes(mb: i32, there: i32, eight: bool): void {
  for (let i = 0; i < 16; i += eight ? 4 : 1) {
    const place = blockOrder(i)
    const likely = likelyMode(mb, there, place)
    const mode = byBins ? cabac.readMode(likely) : modeOf(likely)
    if (needs(mode) & ~(eight ? there8(i >> 2, there) : there4(place, there))) blame(11)
    const own = modesOf(mb) + place
    store<i8>(own, <i8>mode)
    if (!eight) continue
    store<i8>(own, <i8>mode, 1)
    store<i8>(own, <i8>mode, 4)
    store<i8>(own, <i8>mode, 5)
  }
}

function modeOf(likely: i32): i32 {
  if (u(1)) return likely
  const mode = u(3)
  return mode >= likely ? mode + 1 : mode
}

function readChromaMode(mb: i32, there: i32): i32 {
  const mode = byBins ? cabac.chromaMode(mb, there) : ue()
  const needed = mode == 0 ? 0 : mode == 1 ? 1 : mode == 2 ? 2 : 7
  if (mode > 3 || needed & ~there) blame(12)
  return mode
}

function readQp(): void {
  const delta = byBins ? cabac.readDelta() : se()
  if (abs(delta) > 26 + extra / 2) blame(13)
  else last = ((last + delta + 52 + 2 * extra) % (52 + extra)) - extra
}

function whole(mb: i32, there: i32, type: i32): void {
  const mode = type & 3
  const needed = mode == 0 ? 2 : mode == 1 ? 1 : mode == 2 ? 0 : 7
  if (needed & ~there) blame(9)
  store<u8>(kindOf(mb), 2)
  memory.fill(modesOf(mb), 2, 16)
  const chromaMode = readChromaMode(mb, there)
  readQp()
  if (fault) return
  store<i8>(qpPlace(mb), <i8>last)
  if (byBins) cabac.dcLevels(dcs, mb, there, 0)
  else block(dcs, scan4(), 0, 16, tableOf(lumaContext(mb, there, 0)))
  for (let i = 0; type >= 12 && i < 16; i++) {
    const place = blockOrder(i)
    const c = levels + <usize>(place * 64)
    if (byBins) {
      cabac.luma4(c, 15, mb, there, place)
      continue
    }
    const table = tableOf(lumaContext(mb, there, place))
    store<u8>(countsOf(mb) + place, <u8>block(c, scan4(), 1, 15, table))
  }
  readChroma(mb, there, (type >> 2) % 3)
  if (fault) return
  predict16(mode, rebuilt(0) + offset(mb, 0), there)
  luma16(mb, dcs, levels, last + extra)
  rebuildChroma(mb, there, chromaMode)
}

function readChroma(mb: i32, there: i32, pattern: i32): void {
  const blocks = chromaLines >> 1
  if (pattern == 0) return
  for (let plane = 0; plane < 2; plane++) {
    const dc = dcsOfChroma + <usize>(plane * 32)
    if (byBins) cabac.dcLevels(dc, mb, there, plane + 1)
    else block(dc, scanDc(), 0, blocks, chromaLines == 8 ? 4 : 5)
  }
  if (pattern == 1) return
  for (let plane = 0; plane < 2; plane++)
    for (let i = 0; i < blocks; i++) {
      const number = 16 + plane * 8 + i
      const c = levels + <usize>(1024 + plane * 512 + i * 64)
      if (byBins) {
        cabac.chroma4(c, mb, there, number)
        continue
      }
      const table = tableOf(chromaContext(mb, there, number))
      store<u8>(countsOf(mb) + number, <u8>block(c, scan4(), 1, 15, table))
    }
}

function rebuildChroma(mb: i32, there: i32, mode: i32): void {
  for (let plane = 1; plane < 3; plane++) {
    predictChroma(mode, plane, rebuilt(plane) + offset(mb, plane), chromaLines, there)
    const dc = dcsOfChroma + <usize>((plane - 1) * 32)
    chroma(mb, plane, dc, levels + <usize>(1024 + (plane - 1) * 512), chromaQp(plane, last + extra))
  }
}

function raw(mb: i32): void {
  if (byBins) cabac.plain()
  else align()
  for (let plane = 0; plane < 3; plane++) {
    const columns = plane == 0 ? 16 : 8
    const lines = plane == 0 ? 16 : chromaLines
    const first = rebuilt(plane) + offset(mb, plane)
    for (let y = 0; y < lines; y++)
      for (let x = 0; x < columns; x++) store<u16>(first + <usize>(y * pitch(plane) + x * 2), <u16>u(bits))
  }
  if (byBins) cabac.resume()
  store<u8>(kindOf(mb), 3)
  store<i8>(qpPlace(mb), <i8>last)
  memory.fill(modesOf(mb), 2, 16)
  memory.fill(countsOf(mb), 16, 32)
}
