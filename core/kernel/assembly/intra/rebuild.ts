import { chromaLines, most, offset, pitch, rebuilt } from './picture'
import { predictedLine } from './predict'
import { backward4, backward8, chromaDc, dequantise, lumaDc } from './transform'
import { scales4, scales8 } from './tables'

// Samples out of predictions and levels; the plain reference is codec/h264-intra/rebuild.ts. Predictions of more than
// one block stand in lines of sixteen 16-bit values, of luma and of chroma alike.

/** The prediction of a macroblock's plane. */
export const predicted: usize = memory.data(512, 16)

function residual(lower: v128, upper: v128): v128 {
  const round = i32x4.splat(32)
  return i16x8.narrow_i32x4_s(i32x4.shr_s(i32x4.add(lower, round), 6), i32x4.shr_s(i32x4.add(upper, round), 6))
}

function clipped(v: v128): v128 {
  return i16x8.max_s(i16x8.min_s(v, i16x8.splat(<i16>most)), i16x8.splat(0))
}

/** Adds the levels of an 8×8 block of luma to its prediction. */
export function add8(at: usize, mode: i32, c: usize, qp: i32): void {
  dequantise(c, scales8(qp), 64, qp / 6, 6)
  backward8(c)
  const step = pitch(0)
  for (let y = 0, p = at; y < 8; y++, p += step) {
    const line = c + <usize>(y * 32)
    const d = residual(v128.load(line), v128.load(line, 16))
    v128.store(p, clipped(i16x8.add_sat_s(predictedLine(mode, y, 8), d)))
  }
}

/** Adds scaled coefficients of a 4×4 block to a prediction of lines `from` and on, `step` bytes apart. */
export function add4(at: usize, from: usize, step: i32, c: usize, plane: i32): void {
  backward4(c)
  const down = pitch(plane)
  for (let y = 0; y < 4; y++) {
    const d = residual(v128.load(c + <usize>(y * 16)), i32x4.splat(0))
    const sum = clipped(i16x8.add_sat_s(v128.load64_zero(from + <usize>(y * step)), d))
    v128.store64_lane(at + <usize>(y * down), sum, 0)
  }
}

/** Adds the levels of a 4×4 block of luma to its prediction. */
export function lumaPart(at: usize, mode: i32, c: usize, qp: i32): void {
  for (let y = 0; y < 4; y++) v128.store64_lane(predicted + <usize>(y * 32), predictedLine(mode, y, 4), 0)
  dequantise(c, scales4(0, qp), 16, qp / 6, 4)
  add4(at, predicted, 32, c, 0)
}

/** A macroblock's luma, predicted as a whole; DCs and blocks of levels are written over. */
export function luma16(mb: i32, dc: usize, blocks: usize, qp: i32): void {
  const scales = scales4(0, qp)
  const per = qp / 6
  lumaDc(dc)
  scaleDc(dc, 16, load<i32>(scales), per)
  const first = rebuilt(0) + offset(mb, 0)
  const step = pitch(0)
  for (let i = 0; i < 16; i++) {
    const c = blocks + <usize>(i * 64)
    dequantise(c, scales, 16, per, 4)
    store<i32>(c, load<i32>(dc + <usize>(i << 2)))
    const x = (i & 3) * 8
    const y = (i >> 2) * 4
    add4(first + <usize>(y * step + x), predicted + <usize>(y * 32 + x), 32, c, 0)
  }
}

/** Scales DCs in place, with six bits of fraction at QP 0. */
function scaleDc(dc: usize, count: i32, scale: i32, per: i32): void {
  for (let i = 0; i < count; i++) {
    const p = dc + <usize>(i << 2)
    const v = load<i32>(p) * scale
    store<i32>(p, per >= 6 ? v << (per - 6) : (v + (1 << (5 - per))) >> (6 - per))
  }
}

/** A macroblock's plane of chroma. */
export function chroma(mb: i32, plane: i32, dc: usize, blocks: usize, qp: i32): void {
  const rows = chromaLines >> 2
  const dcQp = rows == 4 ? qp + 3 : qp
  chromaDc(dc, rows)
  if (rows == 4) scaleDc(dc, 8, load<i32>(scales4(plane, dcQp)), dcQp / 6)
  else
    for (let i = 0; i < 4; i++) {
      const p = dc + <usize>(i << 2)
      store<i32>(p, ((load<i32>(p) * load<i32>(scales4(plane, qp))) << (qp / 6)) >> 5)
    }
  const first = rebuilt(plane) + offset(mb, plane)
  const step = pitch(plane)
  for (let i = 0; i < rows * 2; i++) {
    const c = blocks + <usize>(i * 64)
    dequantise(c, scales4(plane, qp), 16, qp / 6, 4)
    store<i32>(c, load<i32>(dc + <usize>(i << 2)))
    const x = (i & 1) * 8
    const y = (i >> 1) * 4
    add4(first + <usize>(y * step + x), predicted + <usize>(y * 32 + x), 32, c, plane)
  }
}
