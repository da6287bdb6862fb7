import { begin, code, isOver, look, none, take } from './bits'
import { blocks, resetMeans } from './blocks'
import {
  chroma422,
  columns,
  concealed,
  frameOnly,
  increments,
  kind,
  kinds,
  motions,
  ofFrame,
  parity,
  patterns,
  planes,
  reaches,
  scales,
  second,
  upperFirst,
} from './picture'
import { predict } from './predict'

// Macroblocks of a slice of MPEG-2; the plain reference is Slice of codec/mpeg2/slice.ts.

/** What a macroblock has, as codec/mpeg2/tables.ts has it. */
const hasQuant = 1
const hasForward = 2
const hasBackward = 4
const hasPattern = 8
const hasIntra = 16
/** Stands for 33 macroblocks more. */
const incrementEscape = 0

/** Vectors that others are predicted from, and those of this macroblock: `[which][direction][along, down]`. */
const kept: usize = memory.data(32, 16)
const vectors: usize = memory.data(32, 16)
/** Fields that are predicted from: `[which][direction]`. */
const fields: usize = memory.data(16, 16)
/** The small vector of a macroblock that leans on both fields. */
const small: usize = memory.data(8, 8)

let scale: i32 = 0
/** What the last macroblock was predicted from; skipped ones of B pictures go by it. */
let lastKind: i32 = 0

function vectorAt(list: usize, r: i32, s: i32, t: i32): usize {
  return list + <usize>((r << 4) | (s << 3) | (t << 2))
}

function fieldAt(r: i32, s: i32): usize {
  return fields + <usize>((r << 3) | (s << 2))
}

/**
 * Decodes a slice, from its first bit to its last byte: gives its first macroblock along and its last, `first << 16 |
 * last`; −1 where it is damaged.
 */
export function mpeg2Slice(from: usize, size: i32, row: i32): i32 {
  begin(from, size)
  quantiser()
  if (take(1)) {
    take(8)
    while (take(1)) {
      take(8)
      if (isOver()) return -1
    }
  }
  resetMeans()
  resetVectors()
  lastKind = 0
  let first = -1
  let x = -1
  do {
    const on = increment()
    if (on < 0 || x + on >= columns) return -1
    if (first < 0) first = x + on
    else for (let k = 1; k < on; k++) if (!skipped(x + k, row)) return -1
    x += on
    if (!macroblock(x, row) || isOver()) return -1
  } while (look(23) != 0)
  return (first << 16) | x
}

function quantiser(): void {
  scale = <i32>load<u8>(scales + <usize>take(5))
}

/** How far on the next macroblock is; −1 where that is beyond its row, or nothing known. */
function increment(): i32 {
  let on = 0
  let v = code(increments, 11)
  for (; v == incrementEscape && on <= columns; on += 33) v = code(increments, 11)
  return v == none || v == incrementEscape ? -1 : on + v
}

function resetVectors(): void {
  memory.fill(kept, 0, 32)
}

function skipped(x: i32, row: i32): bool {
  resetMeans()
  if (kind == 1) return false
  if (kind == 2) {
    resetVectors()
    return still(x, row)
  }
  if (lastKind == 0) return false
  // as the one before, with the vectors that are predicted
  for (let s = 0; s < 2; s++) {
    store<i64>(vectorAt(vectors, 0, s, 0), load<i64>(vectorAt(kept, 0, s, 0)))
    store<i32>(fieldAt(0, s), parity)
  }
  return predicted(x, row, lastKind, ofFrame ? 2 : 1)
}

/** A macroblock of a P picture without vectors: what was there before. */
function still(x: i32, row: i32): bool {
  store<i64>(vectorAt(vectors, 0, 0, 0), 0)
  store<i32>(fieldAt(0, 0), parity)
  return predicted(x, row, hasForward, ofFrame ? 2 : 1)
}

function macroblock(x: i32, row: i32): bool {
  const type = code(kinds, kind == 1 ? 2 : 6)
  if (type == none) return false
  const moves = (type & (hasForward | hasBackward)) != 0
  const intra = (type & hasIntra) != 0
  let motion = ofFrame ? 2 : 1
  if (moves && !(ofFrame && frameOnly)) motion = take(2)
  if (motion == 0) return false
  const inFields = ofFrame && !frameOnly && (type & (hasIntra | hasPattern)) != 0 && take(1) == 1
  if (type & hasQuant) quantiser()
  const conceals = intra && concealed
  if ((type & hasForward) != 0 || conceals) if (!motionVectors(0, motion)) return false
  if (type & hasBackward) if (!motionVectors(1, motion)) return false
  if (conceals) take(1)
  if (intra) {
    if (!conceals) resetVectors()
    lastKind = 0
    return blocks(x, row, true, inFields, 255, scale)
  }
  resetMeans()
  if (moves) {
    if (!predicted(x, row, type, motion)) return false
  } else {
    resetVectors()
    if (!still(x, row)) return false
  }
  lastKind = type & (hasForward | hasBackward)
  if (!(type & hasPattern)) return true
  let pattern = code(patterns, 9)
  if (pattern == none) return false
  if (chroma422) pattern = (pattern << 2) | take(2)
  return blocks(x, row, false, inFields, pattern, scale)
}

function motionVectors(s: i32, motion: i32): bool {
  const two = ofFrame ? motion == 1 : motion == 2
  const field = !(ofFrame && motion == 2)
  const dual = motion == 3
  const count = two ? 2 : 1
  for (let r = 0; r < count; r++) {
    if (field && !dual) store<i32>(fieldAt(r, s), take(1))
    if (!motionVector(r, s, 0, false, dual)) return false
    if (!motionVector(r, s, 1, field && ofFrame, dual)) return false
  }
  if (!two) store<i64>(vectorAt(kept, 1, s, 0), load<i64>(vectorAt(kept, 0, s, 0)))
  return true
}

function motionVector(r: i32, s: i32, t: i32, halved: bool, dual: bool): bool {
  const size = load<i32>(reaches + <usize>((s << 3) | (t << 2))) - 1
  if (size < 0 || size > 8) return false
  const v = code(motions, 10)
  if (v == none) return false
  let delta = 0
  if (v != 0) {
    const sign = take(1)
    delta = ((v - 1) << size) + take(size) + 1
    if (sign) delta = -delta
  }
  if (dual) store<i32>(small + <usize>(t << 2), take(1) ? (take(1) ? -1 : 1) : 0)
  const before = load<i32>(vectorAt(kept, r, s, t))
  let value = (halved ? before >> 1 : before) + delta
  const most = 16 << size
  if (value < -most) value += 2 * most
  else if (value >= most) value -= 2 * most
  store<i32>(vectorAt(vectors, r, s, t), value)
  store<i32>(vectorAt(kept, r, s, t), halved ? value * 2 : value)
  return true
}

/** Which frame a direction is predicted from, of a field of it (−1 of all): 0 this one, 3, 6; −1 where there is none. */
function reference(s: i32, field: i32): i32 {
  if (!ofFrame && second && kind == 2 && field != parity) return 0
  const from = s == 0 ? 3 : 6
  return load<u32>(planes + <usize>(from << 2)) == 0 ? -1 : from
}

function predicted(x: i32, row: i32, type: i32, motion: i32): bool {
  let mean = false
  for (let s = 0; s < 2; s++) {
    if (!(type & (s == 0 ? hasForward : hasBackward))) continue
    if (motion == 3) {
      if (!dual(x << 4, row << 4)) return false
    } else if (ofFrame && motion == 2) {
      const from = reference(s, -1)
      if (from < 0) return false
      const at = vectorAt(vectors, 0, s, 0)
      predict(0, 1, from, 0, 1, x << 4, row << 4, 16, load<i32>(at), load<i32>(at, 4), mean)
    } else if (!inFields(x << 4, row << 4, s, motion, mean)) return false
    mean = true
  }
  return true
}

/** Predictions out of single fields: for both fields of a frame, or for the halves of a field or all of it. */
function inFields(x: i32, y: i32, s: i32, motion: i32, mean: bool): bool {
  const parts = ofFrame || motion == 2 ? 2 : 1
  for (let r = 0; r < parts; r++) {
    const field = load<i32>(fieldAt(r, s))
    const from = reference(s, field)
    if (from < 0) return false
    const at = vectorAt(vectors, r, s, 0)
    const along = load<i32>(at)
    const down = load<i32>(at, 4)
    if (ofFrame) predict(r, 2, from, field, 2, x, y >> 1, 8, along, down, mean)
    else predict(parity, 2, from, field, 2, x, y + (r << 3), 16 / parts, along, down, mean)
  }
  return true
}

/** The mean of what both fields before give. */
function dual(x: i32, y: i32): bool {
  const along = load<i32>(vectors)
  const down = load<i32>(vectors, 4)
  const fromLine = ofFrame ? y >> 1 : y
  const height = ofFrame ? 8 : 16
  for (let to = ofFrame ? 0 : parity; to <= (ofFrame ? 1 : parity); to++) {
    const times = !ofFrame ? 1 : (to == 0) == upperFirst ? 1 : 3
    const same = reference(0, to)
    const other = reference(0, 1 - to)
    if (same < 0 || other < 0) return false
    predict(to, 2, same, to, 2, x, fromLine, height, along, down, false)
    const farAlong = far(along, times) + load<i32>(small)
    const farDown = far(down, times) + load<i32>(small, 4) + (to == 0 ? -1 : 1)
    predict(to, 2, other, 1 - to, 2, x, fromLine, height, farAlong, farDown, true)
  }
  return true
}

function far(v: i32, times: i32): i32 {
  return (v * times + (v > 0 ? 1 : 0)) >> 1
}
