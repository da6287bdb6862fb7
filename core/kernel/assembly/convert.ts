import { sample } from './sample'
import { blue, green, red, throughTable } from './table'

// Colours of other primaries and another matrix; the plain reference is ../convert.ts. All places are bytes.

const steps: f64 = 4096
const most: f64 = 1.999

function number(list: usize, i: i32): f64 {
  return load<f64>(list + <usize>(i << 3))
}

function looked(list: usize, v: f64): f64 {
  const x = v * steps
  const i = min(<i32>x, 8192)
  const a = number(list, i)
  return a + (number(list, i + 1) - a) * (x - <f64>i)
}

function lightOf(lights: usize, v: f64): f64 {
  return v < 0 ? -looked(lights, min(-v, most)) : looked(lights, min(v, most))
}

function signalOf(signals: usize, l: f64): f64 {
  const t = min(sqrt<f64>(sqrt<f64>(abs(l))), most)
  return l < 0 ? -looked(signals, t) : looked(signals, t)
}

function code(v: f64): u16 {
  const w = floor(v + 0.5)
  return w < 4 ? 4 : w > 1019 ? 1019 : <u16>w
}

/** `lines` is room for the differences of a line, twice `width + 2` numbers of 64 bits. */
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
  const black = number(c, 0)
  const grey = number(c, 1)
  const scale = number(c, 2)
  const cb = lines
  const cr = lines + <usize>((width + 2) << 3)
  const end = <usize>(width << 3)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const a = y * cw + (x >> 1)
      const b = x & 1 && (x >> 1) + 1 < cw ? a + 1 : a
      const u = <f64>(sample(U, a, bytes) + sample(U, b, bytes)) * 0.5 - grey
      const v = <f64>(sample(V, a, bytes) + sample(V, b, bytes)) * 0.5 - grey
      const l = (<f64>sample(Y, y * width + x, bytes) - black) * scale
      let r = l + number(c, 3) * v
      let g = l + number(c, 4) * u + number(c, 5) * v
      let s = l + number(c, 6) * u
      if (light) {
        const p = lightOf(lights, r)
        const q = lightOf(lights, g)
        const o = lightOf(lights, s)
        r = signalOf(signals, number(c, 7) * p + number(c, 8) * q + number(c, 9) * o)
        g = signalOf(signals, number(c, 10) * p + number(c, 11) * q + number(c, 12) * o)
        s = signalOf(signals, number(c, 13) * p + number(c, 14) * q + number(c, 15) * o)
      }
      if (table) {
        throughTable(table, grids, r, g, s)
        r = red
        g = green
        s = blue
      }
      const luma = number(c, 16) * r + number(c, 17) * g + number(c, 18) * s
      store<u16>(outY + <usize>((y * width + x) << 1), code(64 + 876 * luma))
      store<f64>(cb + <usize>((x + 1) << 3), s - luma)
      store<f64>(cr + <usize>((x + 1) << 3), r - luma)
    }
    store<f64>(cb, load<f64>(cb, 8))
    store<f64>(cr, load<f64>(cr, 8))
    store<f64>(cb + end, load<f64>(cb + end), 8)
    store<f64>(cr + end, load<f64>(cr + end), 8)
    for (let x = 0; x < cw; x++) {
      const k = <usize>(x << 4)
      const at = <usize>((y * cw + x) << 1)
      const d = load<f64>(cb + k) + 2 * load<f64>(cb + k, 8) + load<f64>(cb + k, 16)
      const e = load<f64>(cr + k) + 2 * load<f64>(cr + k, 8) + load<f64>(cr + k, 16)
      store<u16>(outU + at, code(512 + number(c, 19) * d))
      store<u16>(outV + at, code(512 + number(c, 20) * e))
    }
  }
}
