import { most, pitch } from './picture'
import { predicted } from './rebuild'

// Prediction of whole planes of a macroblock, luma of sixteen lines and chroma of eight or sixteen, into lines of
// sixteen 16-bit values; the plain reference is codec/h264-intra/predict.ts.

function line(y: i32): usize {
  return predicted + <usize>(y * 32)
}

function fill(from: i32, to: i32, x: i32, v: i32): void {
  const all = i16x8.splat(<i16>v)
  for (let y = from; y < to; y++) v128.store64_lane(line(y) + <usize>(x * 2), all, 0)
}

/** The sum of four samples in a row. */
function four(at: usize): i32 {
  return <i32>load<u16>(at) + <i32>load<u16>(at, 2) + <i32>load<u16>(at, 4) + <i32>load<u16>(at, 6)
}

/** Modes as luma's: vertical 0, horizontal 1, DC 2, plane 3. */
export function predict16(mode: i32, at: usize, there: i32): void {
  const step = pitch(0)
  if (mode == 0) vertical(at, step, 16, 16)
  else if (mode == 1) horizontal(at, step, 16)
  else if (mode == 3) plane(at, step, 16, 16)
  else {
    let sum = 0
    if (there & 2) for (let x = 0; x < 16; x++) sum += <i32>load<u16>(at - step + <usize>(x * 2))
    if (there & 1) for (let y = 0; y < 16; y++) sum += <i32>load<u16>(at - 2 + <usize>(y * step))
    const sides = (there & 1) + ((there >> 1) & 1)
    const v = sides == 0 ? (most + 1) >> 1 : (sum + 8 * sides) >> (3 + sides)
    for (let x = 0; x < 16; x += 4) fill(0, 16, x, v)
  }
}

/** Modes as chroma's: DC 0, horizontal 1, vertical 2, plane 3. */
export function predictChroma(mode: i32, number: i32, at: usize, lines: i32, there: i32): void {
  const step = pitch(number)
  if (mode == 2) return vertical(at, step, 8, lines)
  if (mode == 1) return horizontal(at, step, lines)
  if (mode == 3) return plane(at, step, 8, lines)
  const above = (there & 2) != 0
  const left = (there & 1) != 0
  for (let y = 0; y < lines; y += 4)
    for (let x = 0; x < 8; x += 4) {
      const a = above ? four(at - step + <usize>(x * 2)) : 0
      let l = 0
      if (left && (x == 0 || y > 0 || !above))
        for (let i = 0; i < 4; i++) l += <i32>load<u16>(at - 2 + <usize>((y + i) * step))
      const fromAbove = above && !(x == 0 && y > 0 && left)
      const fromLeft = left && !(x > 0 && y == 0 && above)
      let v = (most + 1) >> 1
      if (fromAbove && fromLeft) v = (a + l + 4) >> 3
      else if (fromAbove) v = (a + 2) >> 2
      else if (fromLeft) v = (l + 2) >> 2
      fill(y, y + 4, x, v)
    }
}

function vertical(at: usize, step: i32, width: i32, lines: i32): void {
  const a = v128.load(at - step)
  const b = width == 16 ? v128.load(at - step, 16) : a
  for (let y = 0; y < lines; y++) {
    v128.store(line(y), a)
    v128.store(line(y), b, 16)
  }
}

function horizontal(at: usize, step: i32, lines: i32): void {
  for (let y = 0; y < lines; y++) {
    const v = i16x8.splat(load<i16>(at - 2 + <usize>(y * step)))
    v128.store(line(y), v)
    v128.store(line(y), v, 16)
  }
}

function plane(at: usize, step: i32, width: i32, lines: i32): void {
  const hx = width >> 1
  const hy = lines >> 1
  let h = 0
  let v = 0
  const above = at - step
  for (let i = 1; i <= hx; i++)
    h += i * (<i32>load<u16>(above + <usize>((hx - 1 + i) * 2)) - <i32>load<u16>(above + (hx - 1 - i) * 2))
  for (let i = 1; i <= hy; i++)
    v += i * (<i32>load<u16>(at - 2 + (hy - 1 + i) * step) - <i32>load<u16>(at - 2 + (hy - 1 - i) * step))
  const b = ((width == 8 ? 34 : 5) * h + 32) >> 6
  const c = ((lines == 8 ? 34 : 5) * v + 32) >> 6
  const a = 16 * (<i32>load<u16>(at - 2 + (lines - 1) * step) + <i32>load<u16>(above + <usize>((width - 1) * 2)))
  const top = i16x8.splat(<i16>most)
  const least = i16x8.splat(0)
  const step4 = i32x4.splat(4 * b)
  for (let y = 0; y < lines; y++) {
    const first = a + b * (1 - hx) + c * (y - hy + 1) + 16
    let s = i32x4.add(i32x4.splat(first), i32x4.mul(i32x4.splat(b), i32x4(0, 1, 2, 3)))
    for (let x = 0; x < width; x += 8) {
      const next = i32x4.add(s, step4)
      const v = i16x8.narrow_i32x4_s(i32x4.shr_s(s, 5), i32x4.shr_s(next, 5))
      v128.store(line(y) + <usize>(x * 2), i16x8.max_s(i16x8.min_s(v, top), least))
      s = i32x4.add(next, step4)
    }
  }
}
