import { most } from './picture'

// Prediction of blocks of luma by lines: every line of every mode is values in a row of one of a block's sequences.
// The plain reference is codec/h264-intra/predict.ts.

/** Places of 16-bit values: the neighbours, means of two and of three, then sequences of modes that mix them. */
const two: i32 = 32
const three: i32 = 64
const ups: i32 = 96
const downs: i32 = 128
const even: i32 = 160
const odd: i32 = 176
/** Then a line of the mean, and lines that are each one value of the left. */
const flat: i32 = 192
const across: i32 = 200
const values: usize = memory.data(544, 16)
const row: usize = memory.data(64, 16)

/** By mode, of blocks of 8 and then of 4: where its first line is, where its second, how far on two further are. */
// prettier-ignore
const starts: usize = memory.data<i32>([
  9, 9, 0, 200, 208, 16, 192, 192, 0, 74, 75, 2, 72, 71, -2, 163, 179, -1, 142, 140, -4, 41, 74, 1, 96, 98, 4,
  5, 5, 0, 200, 208, 16, 192, 192, 0, 70, 71, 2, 68, 67, -2, 161, 177, -1, 134, 132, -4, 37, 70, 1, 96, 98, 4,
])

function get(i: i32): i32 {
  return <i32>load<i16>(place(i))
}

function put(i: i32, v: i32): void {
  store<i16>(place(i), <i16>v)
}

function place(i: i32): usize {
  return values + <usize>(i << 1)
}

function old(i: i32): i32 {
  return <i32>load<i16>(row + <usize>(i << 1))
}

function startOf(mode: i32, n: i32): usize {
  return starts + <usize>((n == 8 ? 0 : 108) + mode * 12)
}

/** Where the first line of a mode is, of a block of 8 or 4; of four, four values count. */
export function firstLine(mode: i32, n: i32): usize {
  return place(load<i32>(startOf(mode, n)))
}

export function secondLine(mode: i32, n: i32): usize {
  return place(load<i32>(startOf(mode, n), 4))
}

/** How many bytes further on the line after the next is. */
export function lineStep(mode: i32, n: i32): i32 {
  return load<i32>(startOf(mode, n), 8) * 2
}

/** A mode that asks for all of them. */
export const anyMode: i32 = 9

/**
 * Reads the neighbours of a block of 4 or 8, whose first sample is at `at`, smoothed where it is 8, and works out what
 * a mode needs of them.
 */
export function neighbourValues(at: usize, pitch: i32, n: i32, there: i32, mode: i32): void {
  if (there & 1) for (let i = n - 1, p = at - 2; i >= 0; i--, p += pitch) put(i, load<u16>(p))
  const above = at - pitch
  if (there & 4) put(n, load<u16>(above - 2))
  if (there & 2) {
    v128.store(place(n + 1), v128.load(above))
    if (n == 4) {
      if (!(there & 8)) v128.store64_lane(place(9), i16x8.splat(load<i16>(above, 6)), 0)
    } else v128.store(place(17), there & 8 ? v128.load(above, 16) : i16x8.splat(load<i16>(above, 14)))
  }
  if (n == 8) smooth(there)
  if (mode == 2 || mode == anyMode) mean(n, there)
  if (mode == 1 || mode == anyMode) if (there & 1) leftLines(n)
  if (mode < 3) return
  derive(n)
  if (mode >= 8 && there & 1) upwards(n)
  if (mode != 8 && (there & 7) == 7) mixed(n)
}

function smooth(there: i32): void {
  for (let i = 0; i < 64; i += 16) v128.store(row + <usize>i, v128.load(values + <usize>i))
  const twos = i16x8.splat(2)
  for (let i: usize = 0; i < 48; i += 16) {
    const b = v128.load(row + i, 2)
    const sum = i16x8.add(i16x8.add(v128.load(row + i), v128.load(row + i, 4)), i16x8.add(b, b))
    v128.store(values + i, i16x8.shr_u(i16x8.add(sum, twos), 2), 2)
  }
  const corner = (there & 4) != 0
  if (there & 1) {
    put(0, (old(1) + 3 * old(0) + 2) >> 2)
    if (!corner) put(7, (old(6) + 3 * old(7) + 2) >> 2)
  }
  if (corner && (there & 3) != 3) {
    if (there & 3) put(8, (3 * old(8) + (there & 1 ? old(7) : old(9)) + 2) >> 2)
    else put(8, old(8))
  }
  if (there & 2) {
    if (!corner) put(9, (3 * old(9) + old(10) + 2) >> 2)
    put(24, (old(23) + 3 * old(24) + 2) >> 2)
  }
}

function mean(n: i32, there: i32): void {
  let sum = 0
  if (there & 1) for (let i = 0; i < n; i++) sum += get(i)
  if (there & 2) for (let i = n + 1; i < 2 * n + 1; i++) sum += get(i)
  const bits = n == 4 ? 2 : 3
  let all = (most + 1) >> 1
  if ((there & 3) == 3) all = (sum + n) >> (bits + 1)
  else if (there & 3) all = (sum + (n >> 1)) >> bits
  v128.store(place(flat), i16x8.splat(<i16>all))
}

function leftLines(n: i32): void {
  for (let y = 0; y < n; y++) v128.store(place(across + 8 * y), i16x8.splat(<i16>get(n - 1 - y)))
}

/** Means of two and of three values beside each other. */
function derive(n: i32): void {
  const last = 3 * n
  const twos = i16x8.splat(2)
  const one = i16x8.splat(1)
  const first = (3 * get(0) + get(1) + 2) >> 2
  const end = (get(last - 1) + 3 * get(last) + 2) >> 2
  // they reach over all that is read, and a little beyond
  for (let i = 0; i < last; i += 8) {
    const b = v128.load(place(i), 2)
    const ab = i16x8.add(v128.load(place(i)), b)
    v128.store(place(two + i), i16x8.shr_u(i16x8.add(ab, one), 1))
    const sum = i16x8.add(i16x8.add(ab, i16x8.add(b, v128.load(place(i), 4))), twos)
    v128.store(place(three + i), i16x8.shr_u(sum, 2), 2)
  }
  put(three, first)
  put(three + last, end)
}

/** The sequence of the mode that runs upwards from the left (8.3.2.2.10). */
function upwards(n: i32): void {
  const a = v128.load(place(two))
  const b = v128.load(place(three))
  const bottom = load<i16>(values)
  const near = i16x8.replace_lane(v128.shuffle<i16>(a, b, 2, 10, 1, 9, 0, 8, 0, 0), 6, bottom)
  let at = ups
  if (n == 8) {
    v128.store(place(at), v128.shuffle<i16>(a, b, 6, 14, 5, 13, 4, 12, 3, 11))
    at += 8
  }
  v128.store(place(at), i16x8.replace_lane(near, 7, bottom))
  v128.store(place(at + 8), i16x8.splat(bottom))
}

/** Those of the modes that run down from the corner. */
function mixed(n: i32): void {
  const a = v128.load(place(two))
  const b = v128.load(place(three), 2)
  v128.store(place(downs), v128.shuffle<i16>(a, b, 0, 8, 1, 9, 2, 10, 3, 11))
  v128.store(place(downs + 8), v128.shuffle<i16>(a, b, 4, 12, 5, 13, 6, 14, 7, 15))
  v128.store(place(downs + 2 * n), v128.load(place(three + n + 1)))
  const back = (n >> 1) - 1
  v128.store(place(even + back), v128.load(place(two + n)))
  v128.store(place(odd + back), v128.load(place(three + n)))
  for (let k = 1; k <= back; k++) {
    put(even + back - k, get(three + n + 1 - 2 * k))
    put(odd + back - k, get(three + n - 2 * k))
  }
}
