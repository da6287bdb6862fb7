import { sample } from './sample'

// Levels of a picture against EBU R 103; the plain reference is ../range.ts, and floats are worked out as there.

/** Whether a sample is outside in R′, G′ or B′. */
function outside(code: i32, cb: i32, cr: i32, unit: i32, kr: f64, kb: f64): bool {
  const kg = 1 - kr - kb
  const rv = 2 * (1 - kr)
  const bu = 2 * (1 - kb)
  const gv = -(rv * kr) / kg
  const gu = -(bu * kb) / kg
  const yScale: f64 = 1.0 / <f64>(219 * unit)
  const cScale: f64 = 1.0 / <f64>(224 * unit)
  const l = <f64>(code - 16 * unit) * yScale
  const u = <f64>cb * cScale
  const v = <f64>cr * cScale
  const r = l + rv * v
  const g = l + gv * v + gu * u
  const b = l + bu * u
  return r < -0.05 || r > 1.05 || g < -0.05 || g > 1.05 || b < -0.05 || b > 1.05
}

const byte = i32x4.splat(0xff)
const low16 = i32x4.splat(0xffff)

/** Every fourth luma sample of 32, as eight codes. */
function lumas(at: usize, bytes: i32): v128 {
  if (bytes === 1) return i16x8.narrow_i32x4_u(v128.and(v128.load(at), byte), v128.and(v128.load(at, 16), byte))
  const a = v128.shuffle<i16>(v128.load(at), v128.load(at, 16), 0, 4, 8, 12, 0, 0, 0, 0)
  const b = v128.shuffle<i16>(v128.load(at, 32), v128.load(at, 48), 0, 4, 8, 12, 0, 0, 0, 0)
  return v128.shuffle<i64>(a, b, 0, 2)
}

/** Every other chroma sample of sixteen, as eight codes. */
function chromas(at: usize, bytes: i32): v128 {
  if (bytes === 1) return v128.and(v128.load(at), i16x8.splat(0xff))
  return i16x8.narrow_i32x4_u(v128.and(v128.load(at), low16), v128.and(v128.load(at, 16), low16))
}

/**
 * Counts over lines that stand one after the other: luma of `width`, chroma of `cw`, every fourth and every other
 * sample. Codes from `first` to `last` are inside in luma; those from `floor` to `ceiling` in R′, G′ and B′, with `reach`
 * sixteenths of the larger colour difference to spare.
 * Writes four integers: lowest and highest luma, samples outside in luma, and in R′, G′ or B′.
 */
export function range(
  bytes: i32,
  y: usize,
  u: usize,
  v: usize,
  width: i32,
  cw: i32,
  lines: i32,
  first: i32,
  last: i32,
  floor: i32,
  ceiling: i32,
  reach: i32,
  kr: f64,
  kb: f64,
  out: usize,
): void {
  const unit = bytes === 1 ? 1 : 4
  const grey = 128 * unit
  const greys = i16x8.splat(<i16>grey)
  const factor = i16x8.splat(<i16>reach)
  const one = i16x8.splat(1)
  const least = i16x8.splat(<i16>floor)
  const most = i16x8.splat(<i16>ceiling)
  const start = i16x8.splat(<i16>first)
  const end = i16x8.splat(<i16>last)
  let lows = i16x8.splat(0x7fff)
  let highs = i16x8.splat(0)
  let low = 0x7fff
  let high = 0
  let luma = 0
  let gamut = 0
  for (let n = 0; n < lines; n++) {
    const line = y + <usize>(n * width * bytes)
    const cb = u + <usize>(n * cw * bytes)
    const cr = v + <usize>(n * cw * bytes)
    let x = 0
    for (; x + 16 <= cw && 2 * x + 32 <= width; x += 16) {
      const codes = lumas(line + <usize>(2 * x * bytes), bytes)
      lows = i16x8.min_s(lows, codes)
      highs = i16x8.max_s(highs, codes)
      const beyond = v128.or(i16x8.lt_s(codes, start), i16x8.gt_s(codes, end))
      luma += popcnt(i16x8.bitmask(beyond))
      const p = i16x8.abs(i16x8.sub(chromas(cb + <usize>(x * bytes), bytes), greys))
      const q = i16x8.abs(i16x8.sub(chromas(cr + <usize>(x * bytes), bytes), greys))
      const step = i16x8.add(i16x8.shr_u(i16x8.mul(i16x8.max_s(p, q), factor), 4), one)
      const inside = v128.and(i16x8.ge_s(i16x8.sub(codes, step), least), i16x8.le_s(i16x8.add(codes, step), most))
      if (i16x8.all_true(inside)) continue
      for (let i = x; i < x + 16; i += 2) {
        const code = sample(line, 2 * i, bytes)
        if (outside(code, sample(cb, i, bytes) - grey, sample(cr, i, bytes) - grey, unit, kr, kb)) gamut++
      }
    }
    for (; x < cw; x += 2) {
      const code = sample(line, min(width - 1, 2 * x), bytes)
      low = min(low, code)
      high = max(high, code)
      if (code < first || code > last) luma++
      if (outside(code, sample(cb, x, bytes) - grey, sample(cr, x, bytes) - grey, unit, kr, kb)) gamut++
    }
  }
  for (let shift = 0; shift < 8; shift++) {
    low = min(low, <i32>i16x8.extract_lane_s(lows, 0))
    high = max(high, <i32>i16x8.extract_lane_s(highs, 0))
    lows = v128.shuffle<i16>(lows, lows, 1, 2, 3, 4, 5, 6, 7, 0)
    highs = v128.shuffle<i16>(highs, highs, 1, 2, 3, 4, 5, 6, 7, 0)
  }
  store<i32>(out, low)
  store<i32>(out, high, 4)
  store<i32>(out, luma, 8)
  store<i32>(out, gamut, 12)
}
