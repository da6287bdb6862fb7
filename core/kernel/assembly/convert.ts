import { between, codes, differences, doubledEnds, halved, number, row, samples } from './signal'
import { throughTable } from './table'

// Colours of other primaries and another matrix, four at a time; the plain reference is ../convert.ts, and floats of 32
// bits are worked out as there. All places are bytes.

const steps: f32 = 4096
const most: f32 = 1.999

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
  const least = f32x4.splat(4)
  const highest = f32x4.splat(1019)
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
      const words = codes(f32x4.add(f32x4.splat(64), f32x4.mul(f32x4.splat(876), luma)), least, highest)
      v128.store64_lane(outY + <usize>((y * width + x) << 1), words, 0)
      v128.store(cb + at, f32x4.sub(blue, luma), 4)
      v128.store(cr + at, f32x4.sub(red, luma), 4)
    }
    doubledEnds(cb, width)
    doubledEnds(cr, width)
    const to = <usize>((y * cw) << 1)
    halved(cb, cw, f32x4.splat(512), number(c, 19), least, highest, outU + to)
    halved(cr, cw, f32x4.splat(512), number(c, 20), least, highest, outV + to)
  }
}
