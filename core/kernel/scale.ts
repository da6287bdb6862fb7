import { kernel, type Kernel } from './kernel'

/** A plane of samples: 8 bits in bytes, 10 in 16-bit words. */
export type Samples2d = Uint8Array | Uint16Array

/** Shapes that samples are weighed by, with how far they reach, in samples of the coarser raster. */
const shapes = {
  /** Windowed sinc of three lobes (Duchon, 1979): the sharpest, with slight ringing at hard edges. */
  lanczos: {
    reach: 3,
    of: (x: number) => (x === 0 ? 1 : x >= 3 ? 0 : (3 * sinc(x) * sinc(x / 3)) / (Math.PI * x) ** 2),
  },
  /** Cubic of Mitchell and Netravali (1988), B = C = 1/3: softer, next to no ringing. */
  mitchell: {
    reach: 2,
    of: (x: number) =>
      x < 1
        ? (7 * x ** 3 - 12 * x ** 2 + 16 / 3) / 6
        : x < 2
          ? ((-7 / 3) * x ** 3 + 12 * x ** 2 - 20 * x + 32 / 3) / 6
          : 0,
  },
} as const
const sinc = (x: number) => Math.sin(Math.PI * x)

/** How samples are weighed when a picture is brought into another raster. */
export type Scaler = keyof typeof shapes
export const scalers = Object.keys(shapes) as Scaler[]

/** For each sample out: the first sample in, and `count` weights that add up to 16384 (14 bits). */
interface Taps {
  readonly first: Int32Array
  readonly weights: Int16Array
  readonly count: number
}

/** A part of a plane, in samples. */
export interface Part {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

const kept = new Map<string, Taps>()

/**
 * Weights for `to` samples out of `from` samples that begin at `offset` of a line of `limit`; counts are multiples of
 * `step`. Samples beyond the line are the one at its end. `shift`: samples in by which those asked for lie further on.
 */
function taps(scaler: Scaler, from: number, to: number, offset: number, limit: number, step: number, shift = 0): Taps {
  const key = `${scaler}/${from}/${to}/${offset}/${limit}/${step}/${shift}`
  const known = kept.get(key)
  if (known) return known
  const { reach, of } = shapes[scaler]
  const scale = Math.max(1, from / to)
  const span = Math.min(limit, Math.ceil(reach * scale * 2) + 1)
  const count = Math.ceil(span / step) * step
  const first = new Int32Array(to)
  const weights = new Int16Array(to * count)
  for (let i = 0; i < to; i++) {
    const centre = (i + 0.5) * (from / to) - 0.5 + shift
    const start = Math.ceil(centre - reach * scale)
    const base = Math.max(0, Math.min(limit - span, start + offset))
    const own = new Float64Array(span)
    for (let k = start; k <= centre + reach * scale; k++)
      own[Math.max(0, Math.min(limit - 1, k + offset)) - base]! += of(Math.abs(k - centre) / scale)
    const sum = own.reduce((a, b) => a + b, 0)
    let left = 16384
    let largest = 0
    own.forEach((w, k) => {
      const whole = Math.round((w / sum) * 16384)
      weights[i * count + k] = whole
      left -= whole
      if (w > own[largest]!) largest = k
    })
    // rounding is made up on the largest, so that flat stays flat
    weights[i * count + largest]! += left
    first[i] = base
  }
  const made = { first, weights, count }
  if (kept.size > 64) kept.clear()
  kept.set(key, made)
  return made
}

/** What scaling a plane needs to know: both planes, their lines, and the parts that meet. */
export interface ScaleJob {
  readonly src: Samples2d
  readonly stride: number
  readonly height: number
  readonly dst: Samples2d
  readonly dstStride: number
  readonly from: Part
  readonly to: Part
  readonly scaler: Scaler
  /** Lines in by which what is asked for lies further down. */
  readonly shift?: number
}

/** The weights of a job, down and along, with the columns that are used of its lines. */
function plan({ stride, height, from, to, scaler, shift }: ScaleJob) {
  const down = taps(scaler, from.height, to.height, from.y, height, 2, shift)
  const along = taps(scaler, from.width, to.width, from.x, stride, 2)
  const firstColumn = along.first[0]!
  return { down, along, firstColumn, columns: along.first.at(-1)! + along.count - firstColumn }
}

/** Scales a part of a plane into a part of another; by the kernel where there is one, else plainly: both the same. */
export function scalePlane(job: ScaleJob): void {
  const fast = kernel()
  if (fast) scaleFast(job, fast)
  else scalePlain(job)
}

/** The reference: columns first, kept at 14 bits and a sign, then rows; halves are rounded up. */
export function scalePlain(job: ScaleJob): void {
  const { src, stride, dst, dstStride, to } = job
  const { down, along } = plan(job)
  const wide = src instanceof Uint16Array
  const most = wide ? 1023 : 255
  const [half, keep, shift] = wide ? [512, 10, 18] : [128, 8, 20]
  const mid = new Int16Array(stride + along.count)
  for (let y = 0; y < to.height; y++) {
    const line = down.first[y]! * stride
    for (let x = 0; x < stride; x++) {
      let sum = half
      for (let k = 0; k < down.count; k++) {
        const w = down.weights[y * down.count + k]!
        if (w !== 0) sum += src[line + k * stride + x]! * w
      }
      mid[x] = sum >> keep
    }
    for (let x = 0; x < to.width; x++) {
      let sum = 1 << (shift - 1)
      for (let k = 0; k < along.count; k++) sum += mid[along.first[x]! + k]! * along.weights[x * along.count + k]!
      dst[(to.y + y) * dstStride + to.x + x] = Math.max(0, Math.min(most, sum >> shift))
    }
  }
}

function scaleFast(job: ScaleJob, fast: Kernel): void {
  const { src, stride, dst, dstStride, to } = job
  const { down, along, firstColumn, columns } = plan(job)
  const bytes = src.BYTES_PER_ELEMENT
  const width = Math.ceil(to.width / 8) * 8
  const hFirst = new Int32Array(width)
  along.first.forEach((n, i) => (hFirst[i] = n - firstColumn))
  const hWeights = new Int16Array(width * along.count)
  hWeights.set(along.weights)
  // the source comes last of what is held: lines beyond its last have no weight, and room to be read
  const beyond = 2 * stride * bytes
  const made = bytes === 1 ? new Uint8Array(width * to.height) : new Uint16Array(width * to.height)
  const [vFirst, vWeights, first, weights, from, , turned, near, out] = fast.hold(
    [down.first, down.weights, hFirst, hWeights, src],
    ...[beyond, (columns + 16) * 16, 1280, made.byteLength],
  )
  fast.run.scale(
    ...[bytes * 8, from! + firstColumn * bytes, stride, columns, vFirst!, vWeights!, down.count],
    ...[first!, weights!, along.count, width, to.height, turned!, near!, out!],
  )
  if (to.width === dstStride && width === dstStride) {
    fast.take(out!, dst.subarray(to.y * dstStride, (to.y + to.height) * dstStride))
    return
  }
  fast.take(out!, made)
  for (let y = 0; y < to.height; y++)
    dst.set(made.subarray(y * width, y * width + to.width), (to.y + y) * dstStride + to.x)
}
