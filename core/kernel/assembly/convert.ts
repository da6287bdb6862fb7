import { sample } from './sample'
import { throughTable } from './table'

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

/** Colours of a line by the light of others: what ../convert.ts calls `light`. */
function throughLight(c: usize, lights: usize, signals: usize, line: usize, width: i32): void {
  for (let x = 0; x < width; x++, line += 24) {
    const p = lightOf(lights, load<f64>(line))
    const q = lightOf(lights, load<f64>(line, 8))
    const o = lightOf(lights, load<f64>(line, 16))
    store<f64>(line, signalOf(signals, number(c, 7) * p + number(c, 8) * q + number(c, 9) * o))
    store<f64>(line, signalOf(signals, number(c, 10) * p + number(c, 11) * q + number(c, 12) * o), 8)
    store<f64>(line, signalOf(signals, number(c, 13) * p + number(c, 14) * q + number(c, 15) * o), 16)
  }
}

/** `lines` is room for the differences of a line, twice `width + 2`, and its colours, all numbers of 64 bits. */
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
  const redOf = number(c, 3)
  const greenOfU = number(c, 4)
  const greenOfV = number(c, 5)
  const blueOf = number(c, 6)
  const weightR = number(c, 16)
  const weightG = number(c, 17)
  const weightB = number(c, 18)
  const cb = lines
  const cr = lines + <usize>((width + 2) << 3)
  const colours = cr + <usize>((width + 2) << 3)
  const end = <usize>(width << 3)
  for (let y = 0; y < height; y++) {
    let at = colours
    for (let x = 0; x < width; x++, at += 24) {
      const a = y * cw + (x >> 1)
      const b = x & 1 && (x >> 1) + 1 < cw ? a + 1 : a
      const u = <f64>(sample(U, a, bytes) + sample(U, b, bytes)) * 0.5 - grey
      const v = <f64>(sample(V, a, bytes) + sample(V, b, bytes)) * 0.5 - grey
      const l = (<f64>sample(Y, y * width + x, bytes) - black) * scale
      store<f64>(at, l + redOf * v)
      store<f64>(at, l + greenOfU * u + greenOfV * v, 8)
      store<f64>(at, l + blueOf * u, 16)
    }
    if (light) throughLight(c, lights, signals, colours, width)
    if (table) throughTable(table, grids, colours, width)
    at = colours
    for (let x = 0; x < width; x++, at += 24) {
      const r = load<f64>(at)
      const s = load<f64>(at, 16)
      const luma = weightR * r + weightG * load<f64>(at, 8) + weightB * s
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
      const place = <usize>((y * cw + x) << 1)
      const d = load<f64>(cb + k) + 2 * load<f64>(cb + k, 8) + load<f64>(cb + k, 16)
      const e = load<f64>(cr + k) + 2 * load<f64>(cr + k, 8) + load<f64>(cr + k, 16)
      store<u16>(outU + place, code(512 + number(c, 19) * d))
      store<u16>(outV + place, code(512 + number(c, 20) * e))
    }
  }
}
