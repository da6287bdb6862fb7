import { most } from './picture'

// Prediction of 8×8 blocks by lines: every line of every mode is eight values in a row of one of a block's sequences.
// The plain reference is codec/h264-intra/predict.ts.

/** Places of 16-bit values: the neighbours, means of two and of three, then sequences of modes that mix them. */
const two: i32 = 32
const three: i32 = 64
const ups: i32 = 96
const downs: i32 = 128
const even: i32 = 160
const odd: i32 = 176
const values: usize = memory.data(416, 16)
const row: usize = memory.data(64, 16)
let mean: i32 = 0

function get(i: i32): i32 {
  return <i32>load<i16>(values + <usize>(i << 1))
}

function put(i: i32, v: i32): void {
  store<i16>(values + <usize>(i << 1), <i16>v)
}

function old(i: i32): i32 {
  return <i32>load<i16>(row + <usize>(i << 1))
}

/** Reads the neighbours of a block of 4 or 8, whose first sample is at `at`; smoothed where it is 8. */
export function neighbourValues(at: usize, pitch: i32, n: i32, there: i32): void {
  if (there & 1) for (let i = 0, p = at - 2; i < n; i++, p += pitch) put(n - 1 - i, load<u16>(p))
  const above = at - pitch
  if (there & 4) put(n, load<u16>(above - 2))
  if (there & 2) {
    const far = there & 8 ? 2 * n : n
    for (let i = 0; i < far; i++) put(n + 1 + i, load<u16>(above + <usize>(i << 1)))
    const last = get(n + far)
    for (let i = far; i < 2 * n; i++) put(n + 1 + i, last)
  }
  if (n == 8) smooth(there)
  derive(n, there)
}

function smooth(there: i32): void {
  memory.copy(row, values, 50)
  const corner = (there & 4) != 0
  if (there & 1) {
    put(0, (old(1) + 3 * old(0) + 2) >> 2)
    for (let i = 1; i < 7; i++) put(i, (old(i - 1) + 2 * old(i) + old(i + 1) + 2) >> 2)
    put(7, corner ? (old(6) + 2 * old(7) + old(8) + 2) >> 2 : (old(6) + 3 * old(7) + 2) >> 2)
  }
  if (corner) {
    if ((there & 3) == 3) put(8, (old(7) + 2 * old(8) + old(9) + 2) >> 2)
    else if (there & 3) put(8, (3 * old(8) + (there & 1 ? old(7) : old(9)) + 2) >> 2)
  }
  if (there & 2) {
    put(9, corner ? (old(8) + 2 * old(9) + old(10) + 2) >> 2 : (3 * old(9) + old(10) + 2) >> 2)
    for (let i = 10; i < 24; i++) put(i, (old(i - 1) + 2 * old(i) + old(i + 1) + 2) >> 2)
    put(24, (old(23) + 3 * old(24) + 2) >> 2)
  }
}

function derive(n: i32, there: i32): void {
  const last = 3 * n
  const twos = i16x8.splat(2)
  const first = (3 * get(0) + get(1) + 2) >> 2
  const end = (get(last - 1) + 3 * get(last) + 2) >> 2
  const one = i16x8.splat(1)
  // three of them reach over all that is read, and a little beyond
  for (let i = 0; i < last; i += 8) {
    const a = v128.load(values + <usize>(i << 1))
    const b = v128.load(values + <usize>((i + 1) << 1))
    const c = v128.load(values + <usize>((i + 2) << 1))
    const ab = i16x8.add(a, b)
    v128.store(values + <usize>((two + i) << 1), i16x8.shr_u(i16x8.add(ab, one), 1))
    const sum = i16x8.add(i16x8.add(ab, i16x8.add(b, c)), twos)
    v128.store(values + <usize>((three + i + 1) << 1), i16x8.shr_u(sum, 2))
  }
  put(three, first)
  put(three + last, end)
  let sum = 0
  if (there & 1) for (let i = 0; i < n; i++) sum += get(i)
  if (there & 2) for (let i = n + 1; i < 2 * n + 1; i++) sum += get(i)
  const bits = n == 4 ? 2 : 3
  if ((there & 3) == 0) mean = (most + 1) >> 1
  else mean = (there & 3) == 3 ? (sum + n) >> (bits + 1) : (sum + (n >> 1)) >> bits
  if (there & 1) upwards(n)
  if ((there & 7) == 7) mixed(n)
}

/** The sequence of the mode that runs upwards from the left (8.3.2.2.10). */
function upwards(n: i32): void {
  for (let z = 0; z < 3 * n - 2; z++) {
    let v: i32
    if (z > 2 * n - 3) v = get(0)
    else if (z == 2 * n - 3) v = get(three)
    else v = get((z & 1 ? three : two) + n - 2 - (z >> 1))
    put(ups + z, v)
  }
}

/** Those of the modes that run down from the corner. */
function mixed(n: i32): void {
  for (let j = 0; j < 3 * n - 2; j++) {
    const z = 2 * n - 2 - j
    let from: i32
    if (z >= 0) from = z & 1 ? three + n - 1 - ((z - 1) >> 1) : two + n - 1 - (z >> 1)
    else from = z == -1 ? three + n : three + n - 1 - z
    put(downs + j, get(from))
  }
  const back = (n >> 1) - 1
  for (let k = -back; k < n; k++) {
    put(even + back + k, get(k >= 0 ? two + n + k : three + n + 1 + 2 * k))
    put(odd + back + k, get(k >= 1 ? three + n + k : k == 0 ? three + n : three + n + 2 * k))
  }
}

/** Where a line of a mode stands among the values; −1 where all of it is one value. */
function lineAt(mode: i32, y: i32, n: i32): i32 {
  if (mode == 0) return n + 1
  if (mode == 3) return three + n + 2 + y
  if (mode == 4) return three + n - y
  if (mode == 5) return (y & 1 ? odd : even) + (n >> 1) - 1 - (y >> 1)
  if (mode == 6) return downs + 2 * n - 2 - 2 * y
  if (mode == 7) return (y & 1 ? three + n + 2 : two + n + 1) + (y >> 1)
  if (mode == 8) return ups + 2 * y
  return -1
}

/** A line of a predicted block of 8 or 4; of four, four values count. */
export function predictedLine(mode: i32, y: i32, n: i32): v128 {
  if (mode == 2) return i16x8.splat(<i16>mean)
  if (mode == 1) return i16x8.splat(<i16>get(n - 1 - y))
  return v128.load(values + <usize>(lineAt(mode, y, n) << 1))
}
