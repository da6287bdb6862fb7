import { BitWriter } from '../../bits'
import { concatBytes, Writer } from '../../bytes'
import { placeOf } from './planes'
import { firstMean, firstRun, firstSize, means, runs, scanOf, sizes, type Code } from './tables'
import { forward } from '../transform'

// Frames of SMPTE RDD 36 for tests: nothing here writes them.

export interface FrameWanted {
  readonly width: number
  readonly height: number
  /** 4:2:2 when absent. */
  readonly full?: boolean
  readonly fields?: 'upper first' | 'lower first'
  /** Samples of 10 bits: of luma, Cb, Cr, at their own place. */
  sample(plane: number, x: number, y: number): number
  /** The index of the quantiser; 2 when absent. */
  readonly index?: number
  /** How many macroblocks a slice has: 1, 2, 4 or 8, which it has when absent. */
  readonly slice?: number
  readonly weights?: readonly [Uint8Array, Uint8Array]
  /** Bytes of alpha behind each slice. */
  readonly alpha?: Uint8Array
  readonly codes?: {
    readonly aspect?: number
    readonly rate?: number
    readonly colour?: readonly [number, number, number]
  }
}

/** Writes a number of at least 0 by a code: what `Bits` reads. */
export function putCode(w: BitWriter, { last, rice, exponent }: Code, v: number): void {
  const limit = (last + 1) << rice
  if (v < limit) {
    w.u((v >> rice) + 1, 1)
    if (rice) w.u(rice, v & ((1 << rice) - 1))
    return
  }
  const rest = v - limit + (1 << exponent)
  const bits = 32 - Math.clz32(rest)
  w.u(last + 1 + bits - 1 - exponent, 0)
  w.u(bits, rest)
}

const unsigned = (v: number) => (v < 0 ? -2 * v - 1 : 2 * v)

/** A part of a slice from its blocks, whose coefficients stand line by line. */
export function codedPart(blocks: readonly ArrayLike<number>[], scan: Uint8Array): Uint8Array {
  const w = new BitWriter()
  let [step, sign, before] = [3, 0, 0]
  blocks.forEach((block, i) => {
    const mean = block[0]!
    if (i === 0) putCode(w, firstMean, unsigned(mean))
    else {
      const by = mean - before
      const now = Number(by < 0)
      putCode(w, means[Math.min(step, 3)]!, by === 0 ? 0 : 2 * Math.abs(by) - (now ^ sign))
      step = Math.abs(by)
      sign = now
    }
    before = mean
  })
  let [run, size, zeros] = [firstRun, firstSize, 0]
  for (let k = 1; k < 64; k++)
    for (const block of blocks) {
      const v = block[scan[k]!]!
      if (v === 0) {
        zeros++
        continue
      }
      putCode(w, runs[Math.min(run, 15)]!, zeros)
      putCode(w, sizes[Math.min(size, 8)]!, Math.abs(v) - 1)
      w.u(1, Number(v < 0))
      ;[run, size, zeros] = [zeros, Math.abs(v) - 1, 0]
    }
  return w.finish()
}

/** The coefficients of a block of samples from a place of a plane on, weighed and scaled. */
function blockOf(
  f: FrameWanted,
  plane: number,
  at: readonly [x: number, y: number],
  lines: readonly [first: number, step: number],
  weight: (k: number) => number,
): Int32Array {
  const values = new Float32Array(64)
  const width = plane === 0 || f.full ? f.width : (f.width + 1) >> 1
  for (let i = 0; i < 64; i++) {
    const x = Math.min(at[0] + (i & 7), width - 1)
    const y = Math.min(lines[0] + (at[1] + (i >> 3)) * lines[1], f.height - 1)
    values[i] = (f.sample(plane, x, y) - 512) * 4
  }
  forward(values)
  return Int32Array.from(values, (v, k) => Math.round(v / weight(k)))
}

function sliceOf(
  f: FrameWanted,
  column: number,
  row: number,
  count: number,
  lines: readonly [first: number, step: number],
): Uint8Array {
  const { full = false, index = 2, alpha = new Uint8Array(0), weights } = f
  const scale = index > 128 ? 128 + (index - 128) * 4 : index
  const scan = scanOf(f.fields !== undefined)
  const parts = [0, 1, 2].map((plane) => {
    const each = plane === 0 || full ? 4 : 2
    const blocks = Array.from({ length: count * each }, (_, b) => {
      const [x, y] = placeOf(plane > 0, full, b % each)
      const left = (column + Math.floor(b / each)) * (each === 4 ? 16 : 8) + x
      return blockOf(f, plane, [left, row * 16 + y], lines, (k) => (weights?.[plane === 0 ? 0 : 1][k] ?? 4) * scale)
    })
    return codedPart(blocks, scan)
  })
  const size = alpha.length > 0 ? 8 : 6
  const w = new Writer().u8(size << 3).u8(index)
  for (const part of parts.slice(0, size === 8 ? 3 : 2)) w.u16(part.length)
  return concatBytes([w.bytes(), ...parts, alpha])
}

function pictureOf(f: FrameWanted, first: number, step: number): Uint8Array {
  const wanted = f.slice ?? 8
  const rows = Math.ceil(Math.ceil((f.height - first) / step) / 16)
  const slices: Uint8Array[] = []
  for (let row = 0; row < rows; row++)
    for (let column = 0, count = wanted; column < Math.ceil(f.width / 16); column += count) {
      while (column + count > Math.ceil(f.width / 16)) count /= 2
      slices.push(sliceOf(f, column, row, count, [first, step]))
    }
  const head = new Writer().u8(8 << 3)
  head.u32(8 + slices.reduce((n, s) => n + s.length + 2, 0)).u16(slices.length)
  head.u8(Math.log2(wanted) << 4)
  for (const s of slices) head.u16(s.length)
  return concatBytes([head.bytes(), ...slices])
}

/** A frame of what its samples are. */
export function frameOf(f: FrameWanted): Uint8Array {
  const { weights = [], codes = {} } = f
  const order = f.fields === undefined ? [0] : f.fields === 'upper first' ? [0, 1] : [1, 0]
  const pictures = order.map((first) => pictureOf(f, first, order.length))
  const head = new Writer().u16(20 + 64 * weights.length).u16(f.full ? 1 : 0)
  head.raw(new TextEncoder().encode('test')).u16(f.width).u16(f.height)
  head.u8((f.full ? 0xc0 : 0x80) | (f.fields === undefined ? 0 : f.fields === 'upper first' ? 4 : 8))
  head.u8(((codes.aspect ?? 0) << 4) | (codes.rate ?? 0))
  for (const c of codes.colour ?? [1, 1, 1]) head.u8(c)
  head
    .u8(f.alpha ? 2 : 0)
    .u8(0)
    .u8(weights.length === 2 ? 3 : 0)
  for (const w of weights) head.raw(w)
  const body = concatBytes([head.bytes(), ...pictures])
  return concatBytes([
    new Writer()
      .u32(8 + body.length)
      .raw(new TextEncoder().encode('icpf'))
      .bytes(),
    body,
  ])
}
