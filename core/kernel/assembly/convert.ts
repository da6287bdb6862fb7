import { throughTable } from './table'

// Colours of other primaries and another matrix, four at a time; the plain reference is ../convert.ts, and floats of 32
// bits are worked out as there. All places are bytes.

const steps: f32 = 4096
const most: f32 = 1.999

function number(list: usize, i: i32): v128 {
  return v128.load32_splat(list + <usize>(i << 2))
}

/** Four samples, of 8 bits in bytes or 10 in 16-bit words. */
function samples(at: usize, i: i32, bytes: i32): v128 {
  const four =
    bytes == 1
      ? i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(at + <usize>i)))
      : i32x4.extend_low_i16x8_u(v128.load64_zero(at + <usize>(i << 1)))
  return f32x4.convert_i32x4_s(four)
}

/** What a list of a curve's points has for four values, straight between points; it is odd: minus where they are. */
function looked(list: usize, v: v128): v128 {
  const x = f32x4.mul(f32x4.pmin(f32x4.abs(v), f32x4.splat(most)), f32x4.splat(steps))
  const i = i32x4.trunc_sat_f32x4_s(x)
  // a point and the next one, of four values
  let low = v128.load64_zero(list + <usize>(i32x4.extract_lane(i, 0) << 2))
  let high = v128.load64_zero(list + <usize>(i32x4.extract_lane(i, 2) << 2))
  low = v128.load64_lane(list + <usize>(i32x4.extract_lane(i, 1) << 2), low, 1)
  high = v128.load64_lane(list + <usize>(i32x4.extract_lane(i, 3) << 2), high, 1)
  const a = v128.shuffle<i32>(low, high, 0, 2, 4, 6)
  const b = v128.shuffle<i32>(low, high, 1, 3, 5, 7)
  const between = f32x4.mul(f32x4.sub(b, a), f32x4.sub(x, f32x4.convert_i32x4_s(i)))
  return v128.or(f32x4.add(a, between), v128.and(v, i32x4.splat(0x80000000)))
}

/** The signals of light: by its fourth root. */
function signalOf(signals: usize, l: v128): v128 {
  const t = f32x4.sqrt(f32x4.sqrt(f32x4.abs(l)))
  return looked(signals, v128.or(t, v128.and(l, i32x4.splat(0x80000000))))
}

function row(c: usize, i: i32, p: v128, q: v128, o: v128): v128 {
  const two = f32x4.add(f32x4.mul(number(c, i), p), f32x4.mul(number(c, i + 1), q))
  return f32x4.add(two, f32x4.mul(number(c, i + 2), o))
}

/** Four codes of 10 bits, into words. */
function code(v: v128, to: usize): void {
  const whole = f32x4.floor(f32x4.add(v, f32x4.splat(0.5)))
  const held = f32x4.pmin(f32x4.pmax(whole, f32x4.splat(4)), f32x4.splat(1019))
  const words = i32x4.trunc_sat_f32x4_s(held)
  v128.store64_lane(to, i16x8.narrow_i32x4_u(words, words), 0)
}

/** Differences of a line as numbers around 0; the last is there twice more. */
function differences(plane: usize, from: i32, count: i32, bytes: i32, grey: v128, to: usize): void {
  for (let i = 0; i < count; i += 4) v128.store(to + <usize>(i << 2), f32x4.sub(samples(plane, from + i, bytes), grey))
  const end = to + <usize>(count << 2)
  const last = load<f32>(end - 4)
  store<f32>(end, last)
  store<f32>(end, last, 4)
}

/** The difference of each of four samples: every other one has its own, those between the mean of their neighbours'. */
function between(line: usize, x: i32): v128 {
  const d = v128.load(line + <usize>(x << 1))
  const even = v128.shuffle<i32>(d, d, 0, 0, 1, 1)
  const next = v128.shuffle<i32>(d, d, 0, 1, 1, 2)
  return f32x4.mul(f32x4.add(even, next), f32x4.splat(0.5))
}

/** Differences of every other sample, out of those of all: of three, the middle one twice; into codes. */
function halved(line: usize, count: i32, weight: v128, to: usize): void {
  for (let x = 0; x < count; x += 4) {
    const at = line + <usize>(x << 3)
    const a = v128.load(at)
    const b = v128.load(at, 16)
    const odd = v128.shuffle<i32>(a, b, 1, 3, 5, 7)
    const before = v128.shuffle<i32>(a, b, 0, 2, 4, 6)
    const after = v128.shuffle<i32>(v128.load(at, 8), v128.load(at, 24), 0, 2, 4, 6)
    const d = f32x4.add(f32x4.add(before, f32x4.add(odd, odd)), after)
    code(f32x4.add(f32x4.splat(512), f32x4.mul(weight, d)), to + <usize>(x << 1))
  }
}

/** Bytes of a line of numbers of 32 bits, with room for what is looked at beside it. */
function lineBytes(width: i32): usize {
  return <usize>((width + 16) << 2)
}

/** `lines` is room for seven lines: differences, colours, and the new differences. */
export function convert(
  bytes: i32,
  Y: usize,
  U: usize,
  V: usize,
  c: usize,
  lights: usize,
  signals: usize,
  outY: usize,
  outU: usize,
  outV: usize,
  lines: usize,
  width: i32,
  height: i32,
  light: bool,
  table: usize,
  grids: usize,
): void {
  const cw = (width + 1) >> 1
  const size = lineBytes(width)
  const u = lines
  const v = lines + size
  const r = lines + 2 * size
  const g = lines + 3 * size
  const b = lines + 4 * size
  const cb = lines + 5 * size
  const cr = lines + 6 * size
  const end = <usize>(width << 2)
  for (let y = 0; y < height; y++) {
    differences(U, y * cw, cw, bytes, number(c, 1), u)
    differences(V, y * cw, cw, bytes, number(c, 1), v)
    for (let x = 0; x < width; x += 4) {
      const at = <usize>(x << 2)
      const l = f32x4.mul(f32x4.sub(samples(Y, y * width + x, bytes), number(c, 0)), number(c, 2))
      const du = between(u, x)
      const dv = between(v, x)
      let red = f32x4.add(l, f32x4.mul(number(c, 3), dv))
      let green = f32x4.add(f32x4.add(l, f32x4.mul(number(c, 4), du)), f32x4.mul(number(c, 5), dv))
      let blue = f32x4.add(l, f32x4.mul(number(c, 6), du))
      if (light) {
        const p = looked(lights, red)
        const q = looked(lights, green)
        const o = looked(lights, blue)
        red = signalOf(signals, row(c, 7, p, q, o))
        green = signalOf(signals, row(c, 10, p, q, o))
        blue = signalOf(signals, row(c, 13, p, q, o))
      }
      v128.store(r + at, red)
      v128.store(g + at, green)
      v128.store(b + at, blue)
    }
    if (table) throughTable(table, grids, r, g, b, width)
    for (let x = 0; x < width; x += 4) {
      const at = <usize>(x << 2)
      const red = v128.load(r + at)
      const blue = v128.load(b + at)
      const luma = row(c, 16, red, v128.load(g + at), blue)
      code(f32x4.add(f32x4.splat(64), f32x4.mul(f32x4.splat(876), luma)), outY + <usize>((y * width + x) << 1))
      v128.store(cb + at, f32x4.sub(blue, luma), 4)
      v128.store(cr + at, f32x4.sub(red, luma), 4)
    }
    store<f32>(cb, load<f32>(cb, 4))
    store<f32>(cr, load<f32>(cr, 4))
    store<f32>(cb + end, load<f32>(cb + end), 4)
    store<f32>(cr + end, load<f32>(cr + end), 4)
    const to = <usize>((y * cw) << 1)
    halved(cb, cw, number(c, 19), outU + to)
    halved(cr, cw, number(c, 20), outV + to)
  }
}
