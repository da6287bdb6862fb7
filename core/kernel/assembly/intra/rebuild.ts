import { chromaLines, most, offset, pitch, rebuilt } from './picture'
import { firstLine, lineStep, secondLine } from './predict'
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

const work: usize = memory.data(256, 16)

/** Whether any of so many numbers is not nought. */
export function some(c: usize, count: i32): bool {
  let all = v128.load(c)
  for (let i: usize = 16; i < <usize>(count << 2); i += 16) all = v128.or(all, v128.load(c + i))
  return v128.any_true(all)
}

/** Adds the levels of an 8×8 block of luma to its prediction. */
export function add8(at: usize, mode: i32, c: usize, qp: i32): void {
  const step = pitch(0)
  let first = firstLine(mode, 8)
  let second = secondLine(mode, 8)
  const further = lineStep(mode, 8)
  if (!some(c, 64)) {
    for (let y = 0, p = at; y < 8; y += 2, p += 2 * step, first += further, second += further) {
      v128.store(p, v128.load(first))
      v128.store(p + step, v128.load(second))
    }
    return
  }
  dequantise(c, work, scales8(qp), 64, qp / 6, 6)
  backward8(work)
  for (let y = 0, p = at; y < 8; y += 2, p += 2 * step, first += further, second += further) {
    const line = work + <usize>(y * 32)
    const d = residual(v128.load(line), v128.load(line, 16))
    const e = residual(v128.load(line, 32), v128.load(line, 48))
    v128.store(p, clipped(i16x8.add_sat_s(v128.load(first), d)))
    v128.store(p + step, clipped(i16x8.add_sat_s(v128.load(second), e)))
  }
}

/** Adds a number to each sample of a prediction of lines `from` and on, `step` bytes apart. */
function addFlat(at: usize, from: usize, step: i32, v: i32, plane: i32): void {
  const d = i16x8.splat(<i16>min(max((v + 32) >> 6, -32768), 32767))
  const down = pitch(plane)
  for (let y = 0; y < 4; y++, at += down, from += step)
    v128.store64_lane(at, clipped(i16x8.add_sat_s(v128.load64_zero(from), d)), 0)
}

/** Adds scaled coefficients of a 4×4 block to a prediction. */
function add4(at: usize, from: usize, step: i32, c: usize, plane: i32): void {
  backward4(c)
  const down = pitch(plane)
  for (let y = 0; y < 4; y++, at += down, from += step) {
    const d = residual(v128.load(c + <usize>(y * 16)), i32x4.splat(0))
    v128.store64_lane(at, clipped(i16x8.add_sat_s(v128.load64_zero(from), d)), 0)
  }
}

/** Adds the levels of a 4×4 block of luma to its prediction. */
export function lumaPart(at: usize, mode: i32, c: usize, qp: i32): void {
  const further = lineStep(mode, 4)
  const first = firstLine(mode, 4)
  const second = secondLine(mode, 4)
  v128.store64_lane(predicted, v128.load64_zero(first), 0)
  v128.store64_lane(predicted + 32, v128.load64_zero(second), 0)
  v128.store64_lane(predicted + 64, v128.load64_zero(first + further), 0)
  v128.store64_lane(predicted + 96, v128.load64_zero(second + further), 0)
  if (!some(c, 16)) return addFlat(at, predicted, 32, 0, 0)
  dequantise(c, work, scales4(0, qp), 16, qp / 6, 4)
  add4(at, predicted, 32, work, 0)
}

/** Adds a 4×4 block whose DC is scaled already, and whose level of it is nought, to a prediction in lines of sixteen. */
function addPart(at: usize, from: usize, c: usize, dc: i32, scales: usize, per: i32, plane: i32): void {
  if (!some(c, 16)) return addFlat(at, from, 32, dc, plane)
  dequantise(c, work, scales, 16, per, 4)
  store<i32>(work, dc)
  add4(at, from, 32, work, plane)
}

/** A macroblock's luma, predicted as a whole; its DCs are written over. */
export function luma16(mb: i32, dc: usize, blocks: usize, qp: i32): void {
  const scales = scales4(0, qp)
  const per = qp / 6
  lumaDc(dc)
  scaleDc(dc, 16, load<i32>(scales), per)
  const first = rebuilt(0) + offset(mb, 0)
  const step = pitch(0)
  for (let i = 0; i < 16; i++) {
    const x = (i & 3) * 8
    const y = (i >> 2) * 4
    const own = load<i32>(dc + <usize>(i << 2))
    addPart(
      first + <usize>(y * step + x),
      predicted + <usize>(y * 32 + x),
      blocks + <usize>(i * 64),
      own,
      scales,
      per,
      0,
    )
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

/** A macroblock's plane of chroma; its DCs are written over. */
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
  const scales = scales4(plane, qp)
  const per = qp / 6
  for (let i = 0; i < rows * 2; i++) {
    const x = (i & 1) * 8
    const y = (i >> 1) * 4
    const from = predicted + <usize>(y * 32 + x)
    const own = load<i32>(dc + <usize>(i << 2))
    addPart(first + <usize>(y * step + x), from, blocks + <usize>(i * 64), own, scales, per, plane)
  }
}
