import { code, isOver, look, none, take } from './bits'
import {
  chroma422,
  coefficients,
  columns,
  intraCoefficients,
  meanBits,
  meansOfChroma,
  meansOfLuma,
  ofFrame,
  parity,
  planes,
  scan,
  weights,
} from './picture'
import { clear, oddify, put, set } from './transform'

// Coefficients of the blocks of a macroblock of MPEG-2; the plain reference is codec/mpeg2/slice.ts.

const means: usize = memory.data(12, 4)
const ended = -1
const escaped = -2
const damaged = -2

let level: i32 = 0

export function resetMeans(): void {
  for (let k = 0; k < 3; k++) store<i32>(means + <usize>(k << 2), 128 << meanBits)
}

/** Blocks of a macroblock, those that the pattern says: from the highest bit on; false where they are damaged. */
export function blocks(x: i32, row: i32, intra: bool, inFields: bool, pattern: i32, scale: i32): bool {
  const count = chroma422 ? 8 : 6
  const lines = ofFrame ? 1 : 2
  for (let i = 0; i < count; i++) {
    if (!(pattern & (1 << (count - 1 - i)))) continue
    const k = i < 4 ? 0 : 1 + (i & 1)
    if (!(intra ? intraBlock(k, scale) : otherBlock(k, scale))) return false
    const width = k == 0 ? columns << 4 : columns << 3
    const left = k == 0 ? (x << 4) + ((i & 1) << 3) : x << 3
    const top = k == 0 || chroma422 ? row << 4 : row << 3
    const below = k == 0 ? i >> 1 : (i - 4) >> 1
    // chroma of 4:2:0 has too few lines to be in fields
    const apart = inFields && (k == 0 || chroma422)
    const line = top * lines + parity + (apart ? below : (below << 3) * lines)
    const to = <usize>load<u32>(planes + <usize>(k << 2)) + <usize>(line * width + left)
    put(to, width * (apart ? 2 : lines), !intra)
  }
  return true
}

/** Reads a run and a {@link level}: gives its place from `i` on; {@link ended}, {@link damaged}. */
function next(table: usize, i: i32): i32 {
  const v = code(table, 16)
  if (v == ended) return ended
  if (v == escaped) {
    i += take(6)
    level = (take(12) << 20) >> 20
  } else {
    if (v == none) return damaged
    i += v >> 6
    level = take(1) ? -(v & 63) : v & 63
  }
  return i > 63 ? damaged : i
}

function intraBlock(k: i32, scale: i32): bool {
  if (isOver()) return false
  clear()
  const size = k == 0 ? code(meansOfLuma, 9) : code(meansOfChroma, 10)
  if (size < 0) return false
  const place = means + <usize>(k << 2)
  if (size > 0) {
    const v = take(size)
    store<i32>(place, load<i32>(place) + (v >> (size - 1) ? v : v - (1 << size) + 1))
  }
  const mean = <i32>(<i16>(load<i32>(place) << (3 - meanBits)))
  set(0, mean)
  const w = weights + <usize>(k == 0 ? 0 : 64)
  let sum = mean
  for (let i = next(intraCoefficients, 1); i != ended; i = next(intraCoefficients, i + 1)) {
    if (i < 0 || isOver()) return false
    const to = <i32>load<u8>(scan + <usize>i)
    const value = level * <i32>load<u8>(w + <usize>to) * scale
    const whole = value < 0 ? -(-value >> 4) : value >> 4
    const held = min(2047, max(-2048, whole))
    set(to, held)
    sum += held
  }
  oddify(sum)
  return true
}

function otherBlock(k: i32, scale: i32): bool {
  if (isOver()) return false
  clear()
  const w = weights + <usize>(k == 0 ? 128 : 192)
  let sum = 0
  let i = 0
  // the first one cannot be the end, and has a shorter code
  if (look(1) == 1) level = take(2) == 3 ? -1 : 1
  else i = next(coefficients, 0)
  for (; i != ended; i = next(coefficients, i + 1)) {
    if (i < 0 || isOver()) return false
    const to = <i32>load<u8>(scan + <usize>i)
    const value = ((2 * abs(level) + 1) * <i32>load<u8>(w + <usize>to) * scale) >> 5
    const held = level < 0 ? max(-2048, -value) : min(2047, value)
    set(to, held)
    sum += held
  }
  oddify(sum)
  return true
}
