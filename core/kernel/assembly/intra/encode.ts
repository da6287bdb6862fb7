import { chromaContext, likelyMode, lumaContext, neighbours, there8 } from './beside'
import { block, partOfEight, se, takeEight, u, ue } from './bits'
import {
  more,
  writeChroma4,
  writeChromaMode,
  writeDc,
  writeDelta,
  writeEight,
  writeLuma4,
  writeLuma8,
  writeMode,
  writePattern,
  writeType,
} from './cabacwrite'
import {
  blockOrder,
  chromaLines,
  countsOf,
  extra,
  kindOf,
  modesOf,
  needs,
  offset,
  pitch,
  qpPlace,
  rebuilt,
  slicePlace,
  source,
  tableOf,
} from './picture'
import { anyMode, firstLine, lineStep, neighbourValues, secondLine } from './predict'
import { add8, chroma, luma16, predicted } from './rebuild'
import { chromaQp, factors4, factors8, patternCode, penalty, scan4, scan8, scanDc } from './tables'
import { chromaDc, forward4, forward8, lumaDc, quantise } from './transform'
import { predict16, predictChroma } from './whole'

// Encoding of macroblocks, of luma by 8×8 blocks or as a whole; the plain reference is codec/h264-intra/macroblocks.ts.

const levels: usize = memory.data(2048, 16)
const dcs: usize = memory.data(64, 16)
const dcsOfChroma: usize = memory.data(64, 16)
/** The lines of a block of eight, and what is missing of their prediction. */
const wanted: usize = memory.data(128, 16)
const missing: usize = memory.data(128, 16)
const workDcs: usize = memory.data(64, 16)
const told: usize = memory.data(8, 8)
let last: i32 = 0
let plain: bool = false
let cost: i32 = 0
/** Whether macroblocks are coded by arithmetic, and whether one of the slice was. */
let arithmetic: bool = false
let begun: bool = false

/**
 * Begins a slice, whose header says a QP; `isPlain` keeps no more of chroma than a mean for each block. One that is
 * coded by arithmetic is begun by intraBins as well.
 */
export function intraSlice(qp: i32, isPlain: bool, byArithmetic: bool): void {
  last = qp
  plain = isPlain
  arithmetic = byArithmetic
  begun = false
}

/** Encodes macroblocks from one on, at a QP. */
export function intraEncode(first: i32, count: i32, slice: i32, qp: i32): void {
  for (let mb = first; mb < first + count; mb++) {
    if (arithmetic && begun) more(true)
    begun = true
    macroblock(mb, slice, qp)
  }
}

function macroblock(mb: i32, slice: i32, qp: i32): void {
  store<u16>(slicePlace(mb), <u16>slice)
  memory.fill(countsOf(mb), 0, 32)
  store<i8>(qpPlace(mb), <i8>qp)
  const there = neighbours(mb)
  const mode = bestWhole(mb, there)
  const wholeCost = cost
  const pattern = eights(mb, there, qp + extra)
  if (cost < wholeCost) writeEights(mb, there, pattern, qp)
  else writeWhole(mb, there, mode, qp)
}

function sum(v: v128): i32 {
  const two = i32x4.add(v, v128.shuffle<i32>(v, v, 2, 3, 0, 1))
  return i32x4.extract_lane(two, 0) + i32x4.extract_lane(two, 1)
}

/** The sum of eight 16-bit numbers. */
function sumShort(v: v128): i32 {
  return sum(i32x4.dot_i16x8_s(v, i16x8.splat(1)))
}

function apart(a: v128, b: v128): v128 {
  return i16x8.abs(i16x8.sub(a, b))
}

/** How far a plane is from its prediction; of 10 bits, sixteen lines of it stay within 16 bits. */
function difference(plane: i32, mb: i32, lines: i32): i32 {
  const step = pitch(plane)
  let at = source(plane) + offset(mb, plane)
  let left = i16x8.splat(0)
  let right = i16x8.splat(0)
  let p = predicted
  if (plane > 0) {
    for (let y = 0; y < lines; y++, at += step, p += 32) left = i16x8.add(left, apart(v128.load(at), v128.load(p)))
    return sumShort(left)
  }
  for (let y = 0; y < 16; y++, at += step, p += 32) {
    left = i16x8.add(left, apart(v128.load(at), v128.load(p)))
    right = i16x8.add(right, apart(v128.load(at, 16), v128.load(p, 16)))
  }
  return sumShort(left) + sumShort(right)
}

/** How far two lines of a block of eight are from a mode's. */
function twoApart(lines: usize, first: usize, second: usize): v128 {
  return i16x8.add(apart(v128.load(lines), v128.load(first)), apart(v128.load(lines, 16), v128.load(second)))
}

function eightApart(mode: i32): i32 {
  const first = firstLine(mode, 8)
  const second = secondLine(mode, 8)
  const step = lineStep(mode, 8)
  const upper = i16x8.add(twoApart(wanted, first, second), twoApart(wanted + 32, first + step, second + step))
  const third = twoApart(wanted + 64, first + 2 * step, second + 2 * step)
  return sumShort(i16x8.add(upper, i16x8.add(third, twoApart(wanted + 96, first + 3 * step, second + 3 * step))))
}

function bestWhole(mb: i32, there: i32): i32 {
  let best = 0
  cost = i32.MAX_VALUE
  const at = rebuilt(0) + offset(mb, 0)
  for (let mode = 0; mode < 4; mode++) {
    const needed = mode == 0 ? 2 : mode == 1 ? 1 : mode == 2 ? 0 : 7
    if (needed & ~there) continue
    predict16(mode, at, there)
    const d = difference(0, mb, 16)
    if (d < cost) {
      cost = d
      best = mode
    }
  }
  return best
}

function eights(mb: i32, there: i32, qp: i32): i32 {
  const third = (1 << (16 + qp / 6)) / 3
  const step = pitch(0)
  const more = penalty(qp)
  let pattern = 0
  let total = 0
  store<u8>(kindOf(mb), 1)
  for (let k = 0; k < 4; k++) {
    const place = blockOrder(k * 4)
    const inside = <usize>((k >> 1) * 8 * step + (k & 1) * 16)
    const at = rebuilt(0) + offset(mb, 0) + inside
    const from = source(0) + offset(mb, 0) + inside
    const has = there8(k, there)
    neighbourValues(at, step, 8, has, anyMode)
    for (let y = 0, p = from; y < 8; y++, p += step) v128.store(wanted + <usize>(y * 16), v128.load(p))
    const likely = likelyMode(mb, there, place)
    let best = 0
    let least = i32.MAX_VALUE
    for (let mode = 0; mode < 9; mode++) {
      if (needs(mode) & ~has) continue
      const c = eightApart(mode) + (mode == likely ? 0 : more)
      if (c < least) {
        least = c
        best = mode
      }
    }
    total += least
    store<i8>(told + k, <i8>best)
    store<i8>(told + k, <i8>likely, 4)
    const own = modesOf(mb) + place
    store<i8>(own, <i8>best)
    store<i8>(own, <i8>best, 1)
    store<i8>(own, <i8>best, 4)
    store<i8>(own, <i8>best, 5)
    const c = levels + <usize>(k * 256)
    subtract(best)
    forward8(missing, c)
    if (quantise(c, factors8(qp), 64, third, 16 + qp / 6)) pattern |= 1 << k
    add8(at, best, c, qp)
  }
  cost = total
  return pattern
}

/** What is missing of a mode's prediction. */
function subtract(mode: i32): void {
  let first = firstLine(mode, 8)
  let second = secondLine(mode, 8)
  const step = lineStep(mode, 8)
  for (let y: usize = 0; y < 128; y += 32, first += step, second += step) {
    v128.store(missing + y, i16x8.sub(v128.load(wanted + y), v128.load(first)))
    v128.store(missing + y, i16x8.sub(v128.load(wanted + y, 16), v128.load(second)), 16)
  }
}

function writeEights(mb: i32, there: i32, pattern: i32, qp: i32): void {
  const both = bestChroma(mb, there, qp)
  const chromaMode = both & 3
  const chromaPattern = both >> 2
  const whole = pattern | (chromaPattern << 4)
  if (arithmetic) writeType(0, mb, there)
  else ue(0)
  if (arithmetic) writeEight(mb, there)
  else u(1, 1)
  for (let k = 0; k < 4; k++) {
    const mode = <i32>load<i8>(told + k)
    const likely = <i32>load<i8>(told + k, 4)
    if (arithmetic) writeMode(mode, likely)
    else if (mode == likely) u(1, 1)
    else u(4, mode < likely ? mode : mode - 1)
  }
  if (arithmetic) {
    writeChromaMode(chromaMode, mb, there)
    writePattern(whole, mb, there)
  } else {
    ue(chromaMode)
    ue(patternCode(whole))
  }
  if (whole) writeQp(qp)
  else store<i8>(qpPlace(mb), <i8>last)
  for (let k = 0; k < 4; k++) {
    if (((pattern >> k) & 1) == 0) continue
    const c = levels + <usize>(k * 256)
    if (arithmetic) writeLuma8(c, mb, k)
    else writeParts(c, mb, there, k)
  }
  writeChroma(mb, there, chromaPattern)
}

/** The four parts that the levels of an 8×8 block are coded in by variable lengths. */
function writeParts(c: usize, mb: i32, there: i32, k: i32): void {
  takeEight(c)
  for (let i = 0; i < 4; i++) {
    const place = blockOrder(k * 4 + i)
    const table = tableOf(lumaContext(mb, there, place))
    store<u8>(countsOf(mb) + place, <u8>partOfEight(c, scan8(i), table))
  }
}

function writeQp(qp: i32): void {
  let delta = qp - last
  if (delta > 25 + extra / 2) delta -= 52 + extra
  if (delta < -26 - extra / 2) delta += 52 + extra
  if (arithmetic) writeDelta(delta)
  else se(delta)
  last = qp
}

function lessPredicted(from: usize, p: usize): v128 {
  return i16x8.sub(v128.load(from), v128.load(p))
}

/** The coefficients of two 4×4 blocks beside each other: what is missing of their prediction, transformed. */
function coefficients(c: usize, from: usize, step: i32, p: usize): void {
  const first = lessPredicted(from, p)
  const second = lessPredicted(from + step, p + 32)
  forward4(first, second, lessPredicted(from + 2 * step, p + 64), lessPredicted(from + 3 * step, p + 96), c)
}

function writeWhole(mb: i32, there: i32, mode: i32, qp: i32): void {
  const scaled = qp + extra
  const step = pitch(0)
  const third = (1 << (15 + scaled / 6)) / 3
  store<u8>(kindOf(mb), 2)
  memory.fill(modesOf(mb), 2, 16)
  predict16(mode, rebuilt(0) + offset(mb, 0), there)
  const first = source(0) + offset(mb, 0)
  let coded = false
  for (let i = 0; i < 16; i++) {
    const c = levels + <usize>(i * 64)
    const x = (i & 3) * 8
    const y = (i >> 2) * 4
    if ((i & 1) == 0) coefficients(c, first + <usize>(y * step + x), step, predicted + <usize>(y * 32 + x))
    store<i32>(dcs + <usize>(i << 2), load<i32>(c))
    store<i32>(c, 0)
    if (quantise(c, factors4(scaled), 16, third, 15 + scaled / 6)) coded = true
  }
  lumaDc(dcs)
  for (let i = 0; i < 16; i++) store<i32>(dcs + <usize>(i << 2), load<i32>(dcs + <usize>(i << 2)) >> 1)
  quantiseDc(dcs, 16, scaled)
  memory.copy(workDcs, dcs, 64)
  luma16(mb, workDcs, levels, scaled)
  const both = bestChroma(mb, there, qp)
  const chromaPattern = both >> 2
  const type = 1 + mode + 4 * chromaPattern + (coded ? 12 : 0)
  if (arithmetic) {
    writeType(type, mb, there)
    writeChromaMode(both & 3, mb, there)
  } else {
    ue(type)
    ue(both & 3)
  }
  writeQp(qp)
  if (arithmetic) writeDc(dcs, mb, there, 0)
  else block(dcs, scan4(), 0, 16, tableOf(lumaContext(mb, there, 0)))
  for (let i = 0; coded && i < 16; i++) {
    const place = blockOrder(i)
    const c = levels + <usize>(place * 64)
    if (arithmetic) writeLuma4(c, mb, there, place)
    else store<u8>(countsOf(mb) + place, <u8>block(c, scan4(), 1, 15, tableOf(lumaContext(mb, there, place))))
  }
  writeChroma(mb, there, chromaPattern)
}

function quantiseDc(dc: usize, count: i32, qp: i32): bool {
  const factor = load<i32>(factors4(qp))
  const bits = 16 + qp / 6
  const third = (1 << bits) / 3
  let any = 0
  for (let i = 0; i < count; i++) {
    const p = dc + <usize>(i << 2)
    const v = load<i32>(p)
    const n = (abs(v) * factor + third) >> bits
    store<i32>(p, v < 0 ? -n : n)
    any |= n
  }
  return any != 0
}

/** Predicts, transforms and rebuilds chroma; gives the mode and, from bit 2 on, what of it has levels. */
function bestChroma(mb: i32, there: i32, qp: i32): i32 {
  const lines = chromaLines
  let best = 0
  let least = i32.MAX_VALUE
  for (let mode = 0; mode < 4; mode++) {
    const needed = mode == 0 ? 0 : mode == 1 ? 1 : mode == 2 ? 2 : 7
    if (needed & ~there) continue
    let d = 0
    for (let plane = 1; plane < 3; plane++) {
      predictChroma(mode, plane, rebuilt(plane) + offset(mb, plane), lines, there)
      d += difference(plane, mb, lines)
    }
    if (d < least) {
      least = d
      best = mode
    }
  }
  let pattern = 0
  const scaled = chromaQp(1, qp + extra)
  const third = (1 << (15 + scaled / 6)) / 3
  for (let plane = 1; plane < 3; plane++) {
    predictChroma(best, plane, rebuilt(plane) + offset(mb, plane), lines, there)
    const step = pitch(plane)
    const first = source(plane) + offset(mb, plane)
    const blocks = levels + <usize>(1024 + (plane - 1) * 512)
    const dc = dcsOfChroma + <usize>((plane - 1) * 32)
    for (let i = 0; i < lines >> 1; i++) {
      const c = blocks + <usize>(i * 64)
      const y = (i >> 1) * 4
      if ((i & 1) == 0) coefficients(c, first + <usize>(y * step), step, predicted + <usize>(y * 32))
      store<i32>(dc + <usize>(i << 2), load<i32>(c))
      store<i32>(c, 0)
      if (plain) memory.fill(c, 0, 64)
      else if (quantise(c, factors4(scaled), 16, third, 15 + scaled / 6)) pattern = 2
    }
    chromaDc(dc, lines >> 2)
    if (quantiseDc(dc, lines >> 1, lines == 16 ? scaled + 3 : scaled)) pattern = max(pattern, 1)
    memory.copy(workDcs, dc, 32)
    chroma(mb, plane, workDcs, blocks, scaled)
  }
  return best | (pattern << 2)
}

function writeChroma(mb: i32, there: i32, pattern: i32): void {
  const blocks = chromaLines >> 1
  if (pattern == 0) return
  for (let plane = 0; plane < 2; plane++) {
    const c = dcsOfChroma + <usize>(plane * 32)
    if (arithmetic) writeDc(c, mb, there, 1 + plane)
    else block(c, scanDc(), 0, blocks, chromaLines == 8 ? 4 : 5)
  }
  if (pattern == 1) return
  for (let plane = 0; plane < 2; plane++)
    for (let i = 0; i < blocks; i++) {
      const number = 16 + plane * 8 + i
      const c = levels + <usize>(1024 + plane * 512 + i * 64)
      if (arithmetic) writeChroma4(c, mb, there, number)
      else store<u8>(countsOf(mb) + number, <u8>block(c, scan4(), 1, 15, tableOf(chromaContext(mb, there, number))))
    }
}
