import { chroma422, columns, ofFrame, planes, rows } from './picture'

// Predictions of MPEG-2 out of frames that were decoded; the plain reference is codec/mpeg2/frame.ts.

/** Lines of luma of the whole frame. */
function frameLines(): i32 {
  return ofFrame ? rows << 4 : rows << 5
}

/**
 * Writes a prediction of 16 samples by `height` lines at (x, y) and its chroma: into the lines of the frame from
 * `toField` on, `toStep` apart, out of those of the frame that `from` numbers (0 this one, 3 before, 6 after).
 */
export function predict(
  toField: i32,
  toStep: i32,
  from: i32,
  fromField: i32,
  fromStep: i32,
  x: i32,
  y: i32,
  height: i32,
  alongBy: i32,
  downBy: i32,
  mean: bool,
): void {
  plane(0, toField, toStep, from, fromField, fromStep, x, y, 16, height, alongBy, downBy, mean)
  const along = alongBy / 2
  const down = chroma422 ? downBy : downBy / 2
  const top = chroma422 ? y : y >> 1
  const lines = chroma422 ? height : height >> 1
  plane(1, toField, toStep, from, fromField, fromStep, x >> 1, top, 8, lines, along, down, mean)
  plane(2, toField, toStep, from, fromField, fromStep, x >> 1, top, 8, lines, along, down, mean)
}

function planeAt(frame: i32, k: i32): usize {
  return load<u32>(planes + <usize>((frame + k) << 2))
}

function plane(
  k: i32,
  toField: i32,
  toStep: i32,
  from: i32,
  fromField: i32,
  fromStep: i32,
  x: i32,
  y: i32,
  width: i32,
  height: i32,
  along: i32,
  down: i32,
  mean: bool,
): void {
  const whole = k == 0 ? columns << 4 : columns << 3
  const lines = (k == 0 || chroma422 ? frameLines() : frameLines() >> 1) / fromStep
  const left = x + (along >> 1)
  const top = y + (down >> 1)
  const halfX = along & 1
  const halfY = down & 1
  const source = planeAt(from, k) + <usize>(fromField * whole)
  const stride = whole * fromStep
  const outStride = whole * toStep
  let out = planeAt(0, k) + <usize>(toField * whole + y * outStride + x)
  if (left >= 0 && top >= 0 && left + width + halfX <= whole && top + height + halfY <= lines) {
    const at = source + <usize>(top * stride + left)
    if (width == 16) wide(at, stride, out, outStride, height, halfX, halfY, mean)
    else narrow(at, stride, out, outStride, height, halfX, halfY, mean)
    return
  }
  for (let v = 0; v < height; v++, out += outStride) {
    const a = source + <usize>(clamp(top + v, lines) * stride)
    const b = halfY ? source + <usize>(clamp(top + v + 1, lines) * stride) : a
    for (let u = 0; u < width; u++) {
      const l = <usize>clamp(left + u, whole)
      const r = <usize>clamp(left + u + halfX, whole)
      const sum = <i32>load<u8>(a + l) + <i32>load<u8>(a + r) + <i32>load<u8>(b + l) + <i32>load<u8>(b + r)
      const value = (sum + 2) >> 2
      const to = out + <usize>u
      store<u8>(to, mean ? (<i32>load<u8>(to) + value + 1) >> 1 : value)
    }
  }
}

function clamp(v: i32, count: i32): i32 {
  return min(max(v, 0), count - 1)
}

/** Means of four, eight at a time. */
function four(a: v128, b: v128, c: v128, d: v128): v128 {
  const sum = i16x8.add(i16x8.add(a, b), i16x8.add(c, d))
  return i16x8.shr_u(i16x8.add(sum, i16x8.splat(2)), 2)
}

function fourOf(a: v128, b: v128, c: v128, d: v128): v128 {
  return i8x16.narrow_i16x8_u(
    four(
      i16x8.extend_low_i8x16_u(a),
      i16x8.extend_low_i8x16_u(b),
      i16x8.extend_low_i8x16_u(c),
      i16x8.extend_low_i8x16_u(d),
    ),
    four(
      i16x8.extend_high_i8x16_u(a),
      i16x8.extend_high_i8x16_u(b),
      i16x8.extend_high_i8x16_u(c),
      i16x8.extend_high_i8x16_u(d),
    ),
  )
}

function wide(at: usize, stride: i32, out: usize, step: i32, height: i32, halfX: i32, halfY: i32, mean: bool): void {
  for (let v = 0; v < height; v++, at += stride, out += step) {
    let value = v128.load(at)
    if (halfX && halfY) value = fourOf(value, v128.load(at, 1), v128.load(at + stride), v128.load(at + stride, 1))
    else if (halfX) value = i8x16.avgr_u(value, v128.load(at, 1))
    else if (halfY) value = i8x16.avgr_u(value, v128.load(at + stride))
    v128.store(out, mean ? i8x16.avgr_u(v128.load(out), value) : value)
  }
}

function narrow(at: usize, stride: i32, out: usize, step: i32, height: i32, halfX: i32, halfY: i32, mean: bool): void {
  for (let v = 0; v < height; v++, at += stride, out += step) {
    let value = v128.load64_zero(at)
    const below = at + stride
    if (halfX && halfY)
      value = fourOf(value, v128.load64_zero(at, 1), v128.load64_zero(below), v128.load64_zero(below, 1))
    else if (halfX) value = i8x16.avgr_u(value, v128.load64_zero(at, 1))
    else if (halfY) value = i8x16.avgr_u(value, v128.load64_zero(below))
    v128.store64_lane(out, mean ? i8x16.avgr_u(v128.load64_zero(out), value) : value, 0)
  }
}
