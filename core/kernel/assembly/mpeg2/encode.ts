import { intraBitLength, intraBits, u } from '../intra/bits'
import { turnFloats } from '../turn'

// Intra pictures of MPEG-2, 4:2:2: transform, weighing and writing; the plain reference is codec/mpeg2/blocks.ts, and
// floats are worked out as there.

/** Where the tables are: see codec/mpeg2/fastblocks.ts. */
let pairBits: usize = 0
let pairCodes: usize = 0
let meanCodes: usize = 0
let meanSizes: usize = 0
let factors: usize = 0
let scan: usize = 0

/** The picture: macroblocks along and down, whether it is of two fields; its coefficients; by macroblock, its lines. */
let columns: i32 = 0
let rows: i32 = 0
let moving: bool = false
let coefficients: usize = 0
let apart: usize = 0

const work: usize = memory.data(256, 16)
const turned: usize = memory.data(256, 16)
const levels: usize = memory.data(128, 16)
const before: usize = memory.data(12, 4)

/** Eight constants: cos(k π / 16) / 2. */
let cosines: usize = 0

export function mpeg2EncoderTables(
  bits: usize,
  codes: usize,
  ofMeans: usize,
  meansLong: usize,
  factorsAt: usize,
  scanAt: usize,
  cosinesAt: usize,
): void {
  pairBits = bits
  pairCodes = codes
  meanCodes = ofMeans
  meanSizes = meansLong
  factors = factorsAt
  scan = scanAt
  cosines = cosinesAt
}

function cosine(k: i32): v128 {
  return v128.load32_splat(cosines + <usize>(k << 2))
}

function add(a: v128, b: v128): v128 {
  return f32x4.add(a, b)
}

function sub(a: v128, b: v128): v128 {
  return f32x4.sub(a, b)
}

function times(a: v128, k: i32): v128 {
  return f32x4.mul(a, cosine(k))
}

/** The transform of eight values, for four of them side by side; values are 32 bytes apart. */
function eight(at: usize): void {
  const x0 = v128.load(at)
  const x1 = v128.load(at, 32)
  const x2 = v128.load(at, 64)
  const x3 = v128.load(at, 96)
  const x4 = v128.load(at, 128)
  const x5 = v128.load(at, 160)
  const x6 = v128.load(at, 192)
  const x7 = v128.load(at, 224)
  const s0 = add(x0, x7)
  const s1 = add(x1, x6)
  const s2 = add(x2, x5)
  const s3 = add(x3, x4)
  const d0 = sub(x0, x7)
  const d1 = sub(x1, x6)
  const d2 = sub(x2, x5)
  const d3 = sub(x3, x4)
  const a0 = add(s0, s3)
  const a1 = add(s1, s2)
  const a2 = sub(s0, s3)
  const a3 = sub(s1, s2)
  v128.store(at, times(add(a0, a1), 4))
  v128.store(at, add(add(times(d0, 1), times(d1, 3)), add(times(d2, 5), times(d3, 7))), 32)
  v128.store(at, add(times(a2, 2), times(a3, 6)), 64)
  v128.store(at, sub(sub(times(d0, 3), times(d1, 7)), add(times(d2, 1), times(d3, 5))), 96)
  v128.store(at, times(sub(a0, a1), 4), 128)
  v128.store(at, add(sub(times(d0, 5), times(d1, 1)), add(times(d2, 7), times(d3, 3))), 160)
  v128.store(at, sub(times(a2, 6), times(a3, 2)), 192)
  v128.store(at, sub(sub(times(d0, 7), times(d1, 5)), sub(times(d3, 1), times(d2, 3))), 224)
}

function fine(at: usize): v128 {
  const v = f32x4.floor(add(f32x4.mul(v128.load(at), f32x4.splat(8)), f32x4.splat(0.5)))
  return i32x4.trunc_sat_f32x4_s(v)
}

/** The coefficients of a block, in eighths, in the order they are scanned; the scan counts in columns. */
function transform(from: usize, stride: i32, to: usize): void {
  for (let v = 0; v < 8; v++, from += stride) {
    const line = v128.load64_zero(from)
    const wide = i16x8.extend_low_i8x16_u(line)
    const at = work + <usize>(v << 5)
    v128.store(at, f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(wide)))
    v128.store(at, f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(wide)), 16)
  }
  eight(work)
  eight(work + 16)
  turnFloats(work, turned)
  turnFloats(work + 16, turned + 128)
  turnFloats(work + 128, turned + 16)
  turnFloats(work + 144, turned + 144)
  eight(turned)
  eight(turned + 16)
  for (let i = 0; i < 8; i++) {
    const at = turned + <usize>(i << 5)
    v128.store(work + <usize>(i << 4), i16x8.narrow_i32x4_s(fine(at), fine(at + 16)))
  }
  for (let i = 0; i < 64; i++) {
    const place = <usize>load<u8>(scan + <usize>i)
    store<i16>(to + <usize>(i << 1), load<i16>(work + (place << 1)))
  }
}

function sumOf(v: v128): i32 {
  return i32x4.extract_lane(v, 0) + i32x4.extract_lane(v, 1) + i32x4.extract_lane(v, 2) + i32x4.extract_lane(v, 3)
}

/** How far sixteen samples are from those of another line, added up. */
function far(a: v128, at: usize): v128 {
  const b = v128.load(at)
  const d = v128.or(i8x16.sub_sat_u(a, b), i8x16.sub_sat_u(b, a))
  return i32x4.extadd_pairwise_i16x8_u(i16x8.extadd_pairwise_i8x16_u(d))
}

/** Whether the lines of a macroblock are more alike within their fields than next to each other. */
function inFields(from: usize, stride: i32): bool {
  let near = i32x4.splat(0)
  let next = i32x4.splat(0)
  for (let y = 0; y < 14; y++, from += stride) {
    const a = v128.load(from)
    near = i32x4.add(near, far(a, from + stride))
    next = i32x4.add(next, far(a, from + 2 * stride))
  }
  return sumOf(next) < sumOf(near)
}

/** Transforms a picture. */
export function mpeg2Load(
  y: usize,
  cb: usize,
  cr: usize,
  width: i32,
  lines: i32,
  isMoving: bool,
  to: usize,
  apartAt: usize,
): void {
  columns = width >> 4
  rows = lines >> 4
  moving = isMoving
  coefficients = to
  apart = apartAt
  for (let mb = 0; mb < columns * rows; mb++) {
    const x = (mb % columns) << 4
    const top = (mb / columns) << 4
    const fields = moving && inFields(y + <usize>(top * width + x), width)
    store<u8>(apart + <usize>mb, fields ? 1 : 0)
    for (let i = 0; i < 8; i++) {
      const stride = i < 4 ? width : width >> 1
      const plane = i < 4 ? y : i & 1 ? cr : cb
      const left = i < 4 ? x + ((i & 1) << 3) : x >> 1
      const below = i < 4 ? i >> 1 : (i - 4) >> 1
      const from = plane + <usize>((top + (fields ? below : below << 3)) * stride + left)
      transform(from, fields ? stride << 1 : stride, to + <usize>((mb * 8 + i) << 7))
    }
  }
}

/** The levels of a block, and for each whether it is there; its mean is not among them. */
function weigh(block: usize, list: usize): u64 {
  let there: u64 = 0
  const half = f32x4.splat(0.38)
  for (let i = 0; i < 8; i++) {
    const c = i16x8.abs(v128.load(block + <usize>(i << 4)))
    const at = list + <usize>(i << 5)
    const low = f32x4.mul(f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(c)), v128.load(at))
    const high = f32x4.mul(f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(c)), v128.load(at, 16))
    const l = i32x4.trunc_sat_f32x4_s(f32x4.add(low, half))
    const level = i16x8.narrow_i32x4_s(l, i32x4.trunc_sat_f32x4_s(f32x4.add(high, half)))
    v128.store(levels + <usize>(i << 4), level)
    const mask = <u64>i16x8.bitmask(i16x8.ne(level, i16x8.splat(0)))
    there |= mask << (<u64>i * 8)
  }
  return there & ~1
}

function levelAt(i: i32): i32 {
  return min(<i32>load<i16>(levels + <usize>(i << 1)), 2047)
}

/** Bits of a block at a quantiser, but for its mean. */
function blockBits(block: usize, list: usize): i32 {
  let bits = 4
  let last = 0
  for (let there = weigh(block, list); there != 0; there &= there - 1) {
    const i = <i32>ctz(there)
    const level = levelAt(i)
    bits += level < 64 ? <i32>load<u8>(pairBits + <usize>(((i - last - 1) << 6) | level)) : 24
    last = i
  }
  return bits
}

/** The difference of a block's mean from the one before in its plane. */
function meanStep(block: usize, k: i32): i32 {
  const mean = min((<i32>load<i16>(block) + 8) >> 4, 1023)
  const at = before + <usize>(k << 2)
  const step = mean - load<i32>(at)
  store<i32>(at, mean)
  return step
}

function forget(): void {
  for (let k = 0; k < 3; k++) store<i32>(before + <usize>(k << 2), 512)
}

/** Writes the bits of each macroblock at a quantiser, as 32-bit numbers. */
export function mpeg2Cost(quantiser: i32, to: usize): void {
  const list = factors + <usize>(quantiser << 8)
  for (let mb = 0; mb < columns * rows; mb++) {
    if (mb % columns == 0) forget()
    let bits = moving ? 3 : 2
    for (let i = 0; i < 8; i++) {
      const block = coefficients + <usize>((mb * 8 + i) << 7)
      const size = 32 - <i32>clz<u32>(abs(meanStep(block, i < 4 ? 0 : 1 + (i & 1))))
      bits += <i32>load<u8>(meanSizes + <usize>((i < 4 ? 0 : 12) + size)) + size + blockBits(block, list)
    }
    store<u32>(to + <usize>(mb << 2), bits)
  }
}

function writeMean(step: i32, chroma: bool): void {
  const size = 32 - <i32>clz<u32>(abs(step))
  const at = <usize>((chroma ? 12 : 0) + size)
  u(<i32>load<u8>(meanSizes + at), <u32>load<u16>(meanCodes + (at << 1)))
  if (size > 0) u(size, step < 0 ? step + (1 << size) - 1 : step)
}

function writeBlock(block: usize, list: usize): void {
  let last = 0
  for (let there = weigh(block, list); there != 0; there &= there - 1) {
    const i = <i32>ctz(there)
    const level = levelAt(i)
    const run = i - last - 1
    last = i
    const minus = load<i16>(block + <usize>(i << 1)) < 0
    const pair = <usize>((run << 6) | level)
    const size = level < 64 ? <i32>load<u8>(pairBits + pair) : 24
    if (size < 24) u(size, ((<u32>load<u16>(pairCodes + (pair << 1))) << 1) | (minus ? 1 : 0))
    else u(24, (1 << 18) | (run << 12) | ((minus ? -level : level) & 0xfff))
  }
  u(4, 6)
}

/** Writes the slices, each macroblock at its quantiser; gives how many bytes they are. */
export function mpeg2Write(quantisers: usize, to: usize): i32 {
  intraBits(to, 0, 0)
  for (let row = 0; row < rows; row++) {
    forget()
    const over = intraBitLength() & 7
    if (over) u(8 - over, 0)
    u(24, 1)
    u(8, row + 1)
    let last = 0
    for (let x = 0; x < columns; x++) {
      const mb = row * columns + x
      const quantiser = <i32>load<u8>(quantisers + <usize>mb)
      const code = min(quantiser, 31)
      if (x == 0) {
        u(6, code << 1)
        last = code
      }
      u(1, 1)
      u(code == last ? 1 : 2, 1)
      if (moving) u(1, <u32>load<u8>(apart + <usize>mb))
      if (code != last) u(5, code)
      last = code
      for (let i = 0; i < 8; i++) {
        const block = coefficients + <usize>((mb * 8 + i) << 7)
        writeMean(meanStep(block, i < 4 ? 0 : 1 + (i & 1)), i >= 4)
        writeBlock(block, factors + <usize>(quantiser << 8))
      }
    }
  }
  return (intraBitLength() + 7) >> 3
}
