import { turnFloats } from '../turn'

// Coefficients of 8×8 values back into them, four at a time; worked out as `inverse32` of codec/transform.ts.

/** Seven constants: cos(k π / 16) / 2. */
let cosines: usize = 0

/** Values by columns, 32 bits each, before they go down them. */
const work: usize = memory.data(256, 16)

export function rdd36Cosines(place: usize): void {
  cosines = place
}

function add(a: v128, b: v128): v128 {
  return f32x4.add(a, b)
}

function sub(a: v128, b: v128): v128 {
  return f32x4.sub(a, b)
}

function mul(a: v128, k: i32): v128 {
  return f32x4.mul(a, v128.load32_splat(cosines + <usize>(k << 2)))
}

/** Eight values, for four of them side by side, into `out`, 32 bytes apart. */
function eight(x0: v128, x1: v128, x2: v128, x3: v128, x4: v128, x5: v128, x6: v128, x7: v128, out: usize): void {
  const a = mul(add(x0, x4), 4)
  const b = mul(sub(x0, x4), 4)
  const d = add(mul(x2, 2), mul(x6, 6))
  const e = sub(mul(x2, 6), mul(x6, 2))
  const e0 = add(a, d)
  const e1 = add(b, e)
  const e2 = sub(b, e)
  const e3 = sub(a, d)
  const o0 = add(add(mul(x1, 1), mul(x3, 3)), add(mul(x5, 5), mul(x7, 7)))
  const o1 = sub(sub(mul(x1, 3), mul(x3, 7)), add(mul(x5, 1), mul(x7, 5)))
  const o2 = add(sub(mul(x1, 5), mul(x3, 1)), add(mul(x5, 7), mul(x7, 3)))
  const o3 = add(sub(mul(x1, 7), mul(x3, 5)), sub(mul(x5, 3), mul(x7, 1)))
  v128.store(out, add(e0, o0))
  v128.store(out, add(e1, o1), 32)
  v128.store(out, add(e2, o2), 64)
  v128.store(out, add(e3, o3), 96)
  v128.store(out, sub(e3, o3), 128)
  v128.store(out, sub(e2, o2), 160)
  v128.store(out, sub(e1, o1), 192)
  v128.store(out, sub(e0, o0), 224)
}

function floats(from: usize): v128 {
  return f32x4.convert_i32x4_s(v128.load(from))
}

/** Four lines of eight, by their columns, along them. */
function along(block: usize, half: usize): void {
  const from = block + half
  eight(
    floats(from),
    floats(from + 32),
    floats(from + 64),
    floats(from + 96),
    floats(from + 128),
    floats(from + 160),
    floats(from + 192),
    floats(from + 224),
    work + half,
  )
}

/** Values by lines. */
const turned: usize = memory.data(256, 16)
const lined: usize = memory.data(256, 16)

function down(half: usize): void {
  const from = turned + half
  eight(
    v128.load(from),
    v128.load(from, 32),
    v128.load(from, 64),
    v128.load(from, 96),
    v128.load(from, 128),
    v128.load(from, 160),
    v128.load(from, 192),
    v128.load(from, 224),
    lined + half,
  )
}

/** Four samples of a line, before they are held to what there may be. */
function four(v: v128): v128 {
  const near = f32x4.add(f32x4.mul(v, f32x4.splat(0.25)), f32x4.splat(512.5 + 1.0 / 1024.0))
  return i32x4.trunc_sat_f32x4_s(f32x4.floor(near))
}

function held(low: v128, high: v128): v128 {
  const words = i16x8.narrow_i32x4_s(low, high)
  return i16x8.max_s(i16x8.min_s(words, i16x8.splat(1019)), i16x8.splat(4))
}

/** Writes samples of a block (column by column, 32 bits each) whose only coefficient is its mean, lines so far apart. */
export function putMean(block: usize, to: usize, apart: i32): void {
  const v = four(mul(mul(f32x4.splat(<f32>load<i32>(block)), 4), 4))
  const line = held(v, v)
  for (let y = 0; y < 8; y++, to += <usize>apart) v128.store(to, line)
}

/** Writes samples of a block; `lower` says whether its lower four lines have coefficients. */
export function put(block: usize, lower: bool, to: usize, apart: i32): void {
  along(block, 0)
  if (lower) along(block, 16)
  else for (let k: usize = 16; k < 256; k += 32) v128.store(work + k, i64x2.splat(0))
  turnFloats(work, turned)
  turnFloats(work + 16, turned + 128)
  turnFloats(work + 128, turned + 16)
  turnFloats(work + 144, turned + 144)
  down(0)
  down(16)
  for (let from = lined; from < lined + 256; from += 32, to += <usize>apart)
    v128.store(to, held(four(v128.load(from)), four(v128.load(from, 16))))
}
