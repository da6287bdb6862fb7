import { sample } from './sample'

// Levels of a picture against EBU R 103; the plain reference is ../range.ts, and floats are worked out as there.

/** Of how many of two sites R′, G′ or B′ is outside; codes of luma, and colour differences, as floats. */
function outsideOfTwo(code: v128, cb: v128, cr: v128, unit: i32, kr: f64, kb: f64): i32 {
  const kg = 1 - kr - kb
  const toRed = 2 * (1 - kr)
  const toBlue = 2 * (1 - kb)
  const yScale: f64 = 1.0 / <f64>(219 * unit)
  const cScale: f64 = 1.0 / <f64>(224 * unit)
  const l = f64x2.mul(f64x2.sub(code, f64x2.splat(<f64>(16 * unit))), f64x2.splat(yScale))
  const u = f64x2.mul(cb, f64x2.splat(cScale))
  const v = f64x2.mul(cr, f64x2.splat(cScale))
  const r = f64x2.add(l, f64x2.mul(f64x2.splat(toRed), v))
  const ofCr = f64x2.mul(f64x2.splat(-(toRed * kr) / kg), v)
  const g = f64x2.add(f64x2.add(l, ofCr), f64x2.mul(f64x2.splat(-(toBlue * kb) / kg), u))
  const b = f64x2.add(l, f64x2.mul(f64x2.splat(toBlue), u))
  const least = f64x2.min(r, f64x2.min(g, b))
  const most = f64x2.max(r, f64x2.max(g, b))
  const beyond = v128.or(f64x2.lt(least, f64x2.splat(-0.05)), f64x2.gt(most, f64x2.splat(1.05)))
  return popcnt(i64x2.bitmask(beyond))
}

function outsideOfFour(code: v128, cb: v128, cr: v128, unit: i32, kr: f64, kb: f64): i32 {
  const first = outsideOfTwo(
    f64x2.convert_low_i32x4_s(code),
    f64x2.convert_low_i32x4_s(cb),
    f64x2.convert_low_i32x4_s(cr),
    unit,
    kr,
    kb,
  )
  const second = outsideOfTwo(
    f64x2.convert_low_i32x4_s(v128.shuffle<i64>(code, code, 1, 1)),
    f64x2.convert_low_i32x4_s(v128.shuffle<i64>(cb, cb, 1, 1)),
    f64x2.convert_low_i32x4_s(v128.shuffle<i64>(cr, cr, 1, 1)),
    unit,
    kr,
    kb,
  )
  return first + second
}

function outsideOfEight(code: v128, cb: v128, cr: v128, unit: i32, kr: f64, kb: f64): i32 {
  const first = outsideOfFour(
    i32x4.extend_low_i16x8_s(code),
    i32x4.extend_low_i16x8_s(cb),
    i32x4.extend_low_i16x8_s(cr),
    unit,
    kr,
    kb,
  )
  const second = outsideOfFour(
    i32x4.extend_high_i16x8_s(code),
    i32x4.extend_high_i16x8_s(cb),
    i32x4.extend_high_i16x8_s(cr),
    unit,
    kr,
    kb,
  )
  return first + second
}

/** Eight samples as words. */
function eight(at: usize, bytes: i32): v128 {
  return bytes === 1 ? v128.load8x8_u(at) : v128.load(at)
}

/**
 * Counts over a picture, whose chroma has half as many lines with `half` 1. Codes from `first` to `last` are inside in
 * luma; those from `floor` to `ceiling` in R′, G′ and B′, with `reach` sixteenths of the larger colour difference to
 * spare. Writes four integers: lowest and highest luma, samples outside in luma, and sites outside in R′, G′ or B′.
 */
export function range(
  bytes: i32,
  y: usize,
  u: usize,
  v: usize,
  width: i32,
  height: i32,
  half: i32,
  first: i32,
  last: i32,
  floor: i32,
  ceiling: i32,
  reach: i32,
  kr: f64,
  kb: f64,
  out: usize,
): void {
  const cw = (width + 1) >> 1
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
  for (let n = 0; n < height; n++) {
    const line = y + <usize>(n * width * bytes)
    const cb = u + <usize>((n >> half) * cw * bytes)
    const cr = v + <usize>((n >> half) * cw * bytes)
    let x = 0
    for (; 2 * x + 16 <= width; x += 8) {
      const left = eight(line + <usize>(2 * x * bytes), bytes)
      const right = eight(line + <usize>((2 * x + 8) * bytes), bytes)
      lows = i16x8.min_s(lows, i16x8.min_s(left, right))
      highs = i16x8.max_s(highs, i16x8.max_s(left, right))
      const under = v128.or(i16x8.lt_s(left, start), i16x8.gt_s(left, end))
      const over = v128.or(i16x8.lt_s(right, start), i16x8.gt_s(right, end))
      if (v128.any_true(v128.or(under, over))) luma += popcnt(i16x8.bitmask(under)) + popcnt(i16x8.bitmask(over))
      const codes = v128.shuffle<i16>(left, right, 0, 2, 4, 6, 8, 10, 12, 14)
      const du = i16x8.sub(eight(cb + <usize>(x * bytes), bytes), greys)
      const dv = i16x8.sub(eight(cr + <usize>(x * bytes), bytes), greys)
      const step = i16x8.add(i16x8.shr_u(i16x8.mul(i16x8.max_s(i16x8.abs(du), i16x8.abs(dv)), factor), 4), one)
      const inside = v128.and(i16x8.ge_s(i16x8.sub(codes, step), least), i16x8.le_s(i16x8.add(codes, step), most))
      // luma within these by the largest step that chroma can take needs no closer look
      if (!i16x8.all_true(inside)) gamut += outsideOfEight(codes, du, dv, unit, kr, kb)
    }
    for (let i = 2 * x; i < width; i++) {
      const code = sample(line, i, bytes)
      low = min(low, code)
      high = max(high, code)
      if (code < first || code > last) luma++
      if (i & 1) continue
      const at = i >> 1
      const two = outsideOfTwo(
        f64x2.splat(<f64>code),
        f64x2.splat(<f64>(sample(cb, at, bytes) - grey)),
        f64x2.splat(<f64>(sample(cr, at, bytes) - grey)),
        unit,
        kr,
        kb,
      )
      if (two) gamut++
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
