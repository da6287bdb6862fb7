import { turnLines } from '../turn'

// Transforms and quantisation of blocks of 32-bit numbers, line by line; the plain reference is
// codec/h264-intra/transform.ts.

function at(c: usize, i: i32): v128 {
  return v128.load(c + <usize>(i * 16))
}

function put(c: usize, i: i32, v: v128): void {
  v128.store(c + <usize>(i * 16), v)
}

/** Turns four lines of four into columns: `step` lines of 16 bytes lie between two of them, there and here. */
function turn(from: usize, to: usize, step: i32): void {
  const a = at(from, 0)
  const b = at(from, step)
  const c = at(from, 2 * step)
  const d = at(from, 3 * step)
  const ab0 = v128.shuffle<i32>(a, b, 0, 4, 1, 5)
  const ab1 = v128.shuffle<i32>(a, b, 2, 6, 3, 7)
  const cd0 = v128.shuffle<i32>(c, d, 0, 4, 1, 5)
  const cd1 = v128.shuffle<i32>(c, d, 2, 6, 3, 7)
  put(to, 0, v128.shuffle<i64>(ab0, cd0, 0, 2))
  put(to, step, v128.shuffle<i64>(ab0, cd0, 1, 3))
  put(to, 2 * step, v128.shuffle<i64>(ab1, cd1, 0, 2))
  put(to, 3 * step, v128.shuffle<i64>(ab1, cd1, 1, 3))
}

const spare: usize = memory.data(256, 16)

/** Turns a block of eight lines of 32-bit numbers. */
function turn8(from: usize, to: usize): void {
  // quarters: 0 and 16 are the upper ones, 128 and 144 the lower
  turn(from, to, 2)
  turn(from + 16, to + 128, 2)
  turn(from + 128, to + 16, 2)
  turn(from + 144, to + 144, 2)
}

function add(a: v128, b: v128): v128 {
  return i32x4.add(a, b)
}

function sub(a: v128, b: v128): v128 {
  return i32x4.sub(a, b)
}

function half(a: v128): v128 {
  return i32x4.shr_s(a, 1)
}

function quarter(a: v128): v128 {
  return i32x4.shr_s(a, 2)
}

/** A line of 16-bit numbers: eight of them, or where they are worked out in 32 bits its first four. */
function line<T>(c: usize, i: i32): v128 {
  return sizeof<T>() == 4 ? v128.load16x4_s(c + <usize>(i * 16)) : at(c, i)
}

/**
 * The 8×8 transform forth over columns of 16-bit numbers, four of them in 32 bits or all in 16, into lines of which
 * `step` are one on. What is missing of predictions of 10 bits stays within 16 the first time.
 */
function forth8<T>(from: usize, c: usize, step: i32): void {
  const s07 = v128.add<T>(line<T>(from, 0), line<T>(from, 7))
  const s16 = v128.add<T>(line<T>(from, 1), line<T>(from, 6))
  const s25 = v128.add<T>(line<T>(from, 2), line<T>(from, 5))
  const s34 = v128.add<T>(line<T>(from, 3), line<T>(from, 4))
  const d07 = v128.sub<T>(line<T>(from, 0), line<T>(from, 7))
  const d16 = v128.sub<T>(line<T>(from, 1), line<T>(from, 6))
  const d25 = v128.sub<T>(line<T>(from, 2), line<T>(from, 5))
  const d34 = v128.sub<T>(line<T>(from, 3), line<T>(from, 4))
  const a0 = v128.add<T>(s07, s34)
  const a1 = v128.add<T>(s16, s25)
  const a2 = v128.sub<T>(s07, s34)
  const a3 = v128.sub<T>(s16, s25)
  const a4 = v128.add<T>(v128.add<T>(d16, d25), v128.add<T>(d07, v128.shr<T>(d07, 1)))
  const a5 = v128.sub<T>(v128.sub<T>(d07, d34), v128.add<T>(d25, v128.shr<T>(d25, 1)))
  const a6 = v128.sub<T>(v128.add<T>(d07, d34), v128.add<T>(d16, v128.shr<T>(d16, 1)))
  const a7 = v128.add<T>(v128.sub<T>(d16, d25), v128.add<T>(d34, v128.shr<T>(d34, 1)))
  put(c, 0, v128.add<T>(a0, a1))
  put(c, step, v128.add<T>(a4, v128.shr<T>(a7, 2)))
  put(c, 2 * step, v128.add<T>(a2, v128.shr<T>(a3, 1)))
  put(c, 3 * step, v128.add<T>(a5, v128.shr<T>(a6, 2)))
  put(c, 4 * step, v128.sub<T>(a0, a1))
  put(c, 5 * step, v128.sub<T>(a6, v128.shr<T>(a5, 2)))
  put(c, 6 * step, v128.sub<T>(v128.shr<T>(a2, 1), a3))
  put(c, 7 * step, v128.sub<T>(v128.shr<T>(a4, 2), a7))
}

/** The 8×8 transform back over columns, four of them. */
function back8(c: usize): void {
  const c0 = at(c, 0)
  const c1 = at(c, 2)
  const c2 = at(c, 4)
  const c3 = at(c, 6)
  const c4 = at(c, 8)
  const c5 = at(c, 10)
  const c6 = at(c, 12)
  const c7 = at(c, 14)
  const a0 = add(c0, c4)
  const a2 = sub(c0, c4)
  const a4 = sub(half(c2), c6)
  const a6 = add(c2, half(c6))
  const b0 = add(a0, a6)
  const b2 = add(a2, a4)
  const b4 = sub(a2, a4)
  const b6 = sub(a0, a6)
  const a1 = sub(sub(c5, c3), add(c7, half(c7)))
  const a3 = sub(add(c1, c7), add(c3, half(c3)))
  const a5 = add(sub(c7, c1), add(c5, half(c5)))
  const a7 = add(add(c3, c5), add(c1, half(c1)))
  const b1 = add(a1, quarter(a7))
  const b7 = sub(a7, quarter(a1))
  const b3 = add(a3, quarter(a5))
  const b5 = sub(quarter(a3), a5)
  put(c, 0, add(b0, b7))
  put(c, 2, add(b2, b5))
  put(c, 4, add(b4, b3))
  put(c, 6, add(b6, b1))
  put(c, 8, sub(b6, b1))
  put(c, 10, sub(b4, b3))
  put(c, 12, sub(b2, b5))
  put(c, 14, sub(b0, b7))
}

/** Coefficients of a block of eight lines of eight 16-bit numbers, of 10 bits and a sign; the lines are written over. */
export function forward8(lines: usize, c: usize): void {
  turnLines(lines, 16, spare)
  forth8<i16>(spare, spare, 1)
  turnLines(spare, 16, lines)
  forth8<i32>(lines, c, 2)
  forth8<i32>(lines + 8, c + 16, 2)
}

export function backward8(c: usize): void {
  turn8(c, spare)
  back8(spare)
  back8(spare + 16)
  turn8(spare, c)
  back8(c)
  back8(c + 16)
}

/** A line of a 4×4 block's coefficients: `near` and `far` are its first and last two numbers, four times over. */
function line4(near: v128, far: v128): v128 {
  return add(
    i32x4.dot_i16x8_s(near, i16x8(1, 1, 2, 1, 1, -1, 1, -2)),
    i32x4.dot_i16x8_s(far, i16x8(1, 1, -1, -2, -1, 1, 2, -1)),
  )
}

function lines4(c: usize, i: i32, v: v128): void {
  put(c, i, line4(v128.shuffle<i32>(v, v, 0, 0, 0, 0), v128.shuffle<i32>(v, v, 1, 1, 1, 1)))
  put(c, i + 4, line4(v128.shuffle<i32>(v, v, 2, 2, 2, 2), v128.shuffle<i32>(v, v, 3, 3, 3, 3)))
}

/** Coefficients of two 4×4 blocks beside each other, of four lines of 16-bit numbers: one block's, then the other's. */
export function forward4(d0: v128, d1: v128, d2: v128, d3: v128, c: usize): void {
  const a = i16x8.add(d0, d3)
  const b = i16x8.add(d1, d2)
  const d = i16x8.sub(d1, d2)
  const e = i16x8.sub(d0, d3)
  lines4(c, 0, i16x8.add(a, b))
  lines4(c, 1, i16x8.add(i16x8.add(e, e), d))
  lines4(c, 2, i16x8.sub(a, b))
  lines4(c, 3, i16x8.sub(e, i16x8.add(d, d)))
}

function back4(c: usize): void {
  const a = add(at(c, 0), at(c, 2))
  const b = sub(at(c, 0), at(c, 2))
  const d = sub(half(at(c, 1)), at(c, 3))
  const e = add(at(c, 1), half(at(c, 3)))
  put(c, 0, add(a, e))
  put(c, 1, add(b, d))
  put(c, 2, sub(b, d))
  put(c, 3, sub(a, e))
}

export function backward4(c: usize): void {
  turn(c, c, 1)
  back4(c)
  turn(c, c, 1)
  back4(c)
}

function hadamard(c: usize): void {
  const a = add(at(c, 0), at(c, 1))
  const b = sub(at(c, 0), at(c, 1))
  const d = add(at(c, 2), at(c, 3))
  const e = sub(at(c, 2), at(c, 3))
  put(c, 0, add(a, d))
  put(c, 1, sub(a, d))
  put(c, 2, sub(b, e))
  put(c, 3, add(b, e))
}

/** Sixteen luma DCs. */
export function lumaDc(c: usize): void {
  turn(c, c, 1)
  hadamard(c)
  turn(c, c, 1)
  hadamard(c)
}

/** Chroma DCs, two beside each other, two or four below. */
export function chromaDc(c: usize, rows: i32): void {
  for (let y = 0; y < rows; y++) {
    const p = c + <usize>(y * 8)
    const a = load<i32>(p)
    const b = load<i32>(p, 4)
    store<i32>(p, a + b)
    store<i32>(p, a - b, 4)
  }
  for (let x = 0; x < 2; x++) {
    const p = c + <usize>(x * 4)
    const c0 = load<i32>(p)
    const c1 = load<i32>(p, 8)
    if (rows == 2) {
      store<i32>(p, c0 + c1)
      store<i32>(p, c0 - c1, 8)
      continue
    }
    const c2 = load<i32>(p, 16)
    const c3 = load<i32>(p, 24)
    store<i32>(p, c0 + c1 + c2 + c3)
    store<i32>(p, c0 + c1 - c2 - c3, 8)
    store<i32>(p, c0 - c1 - c2 + c3, 16)
    store<i32>(p, c0 - c1 + c2 - c3, 24)
  }
}

/** Levels of `count` coefficients in place, four at a time, each with its factor; gives whether any is not nought. */
export function quantise(c: usize, factors: usize, count: i32, third: i32, bits: i32): bool {
  const thirds = i32x4.splat(third)
  let any = i32x4.splat(0)
  for (let i = 0; i < count; i += 4) {
    const p = c + <usize>(i << 2)
    const v = v128.load(p)
    const sign = i32x4.shr_s(v, 31)
    const size = i32x4.shr_u(i32x4.add(i32x4.mul(i32x4.abs(v), v128.load(factors + <usize>(i << 2))), thirds), bits)
    v128.store(p, i32x4.sub(v128.xor(size, sign), sign))
    any = v128.or(any, size)
  }
  return v128.any_true(any)
}

/** Scaled coefficients of levels; `six` bits are the fraction at QP 0, `per` the QP's sixths. */
export function dequantise(c: usize, to: usize, scales: usize, count: i32, per: i32, six: i32): void {
  const round = per < six ? i32x4.splat(1 << (six - 1 - per)) : i32x4.splat(0)
  for (let i: usize = 0; i < <usize>(count << 2); i += 16) {
    const v = i32x4.mul(v128.load(c + i), v128.load(scales + i))
    v128.store(to + i, per >= six ? i32x4.shl(v, per - six) : i32x4.shr_s(i32x4.add(v, round), six - per))
  }
}
