import { kernel } from './kernel'
import type { Samples2d } from './scale'

/** A narrow-range picture, the weights of its luma, and the size at which it is wanted: never larger. */
export interface PreviewJob {
  readonly planes: readonly [Samples2d, Samples2d, Samples2d]
  readonly width: number
  readonly height: number
  readonly chromaLines: number
  readonly outWidth: number
  readonly outHeight: number
  readonly weights: readonly [red: number, blue: number]
}

/** What the sums of two samples of chroma add to red, to green (of either), and to blue, in 1/65536. */
function matrixOf([kr, kb]: PreviewJob['weights']): readonly [number, number, number, number] {
  const kg = 1 - kr - kb
  const [red, blue] = [1 - kr, 1 - kb].map((k) => k * (255 / 224) * 65536) as [number, number]
  const [ofCb, ofCr] = [(blue * kb) / kg, (red * kr) / kg]
  return [Math.round(red), Math.round(ofCb), Math.round(ofCr), Math.round(blue)]
}

/** Places, in `from` samples, of a part of each of `to` blocks. */
const places = (from: number, to: number, part: number) =>
  Int32Array.from({ length: to }, (_, i) => Math.min(from - 1, Math.floor(((i + part) * from) / to)))

/** Lists laid into each other: the first of each, the second of each … */
function woven(...lists: readonly Int32Array[]): Int32Array {
  const n = lists.length
  return Int32Array.from({ length: lists[0]!.length * n }, (_, i) => lists[i % n]![Math.floor(i / n)]!)
}

/** Where samples are taken: two luma columns, two of chroma for a pair of them, two luma lines and one of chroma. */
interface Tables {
  readonly luma: Int32Array
  readonly chroma: Int32Array
  readonly lines: Int32Array
}

const kept = new Map<string, Tables>()

function tablesOf({ width, height, chromaLines, outWidth: w, outHeight: h }: PreviewJob): Tables {
  const key = [width, height, chromaLines, w, h].join()
  const known = kept.get(key)
  if (known) return known
  const cw = (width + 1) >> 1
  const pairs = (w + 1) >> 1
  const made = {
    luma: woven(places(width, w, 0.25), places(width, w, 0.75)),
    chroma: woven(places(cw, pairs, 0.25), places(cw, pairs, 0.75)),
    lines: woven(places(height, h, 0.25), places(height, h, 0.75), places(chromaLines, h, 0.5)),
  }
  if (kept.size > 16) kept.clear()
  kept.set(key, made)
  return made
}

/**
 * 8-bit R′, G′, B′, one after the other. Each sample of a smaller picture is the mean of four of its block, its colour
 * that of the pair: enough for looking, and quick. Integers: the matrix in 1/65536.
 */
export function previewPlain(job: PreviewJob): Uint8Array {
  const { planes, width, outWidth, outHeight } = job
  const [Y, U, V] = planes
  const { luma, chroma, lines } = tablesOf(job)
  const cw = (width + 1) >> 1
  const depth = Y instanceof Uint16Array ? 2 : 0
  const shift = 16 + depth
  const black = 64 << depth
  const grey = 256 << depth
  const half = 1 << (shift - 1)
  const [toRed, greenOfCb, greenOfCr, toBlue] = matrixOf(job.weights)
  const rgb = new Uint8ClampedArray(outWidth * outHeight * 3)
  let o = 0
  for (let y = 0; y < outHeight; y++) {
    const a = lines[3 * y]! * width
    const b = lines[3 * y + 1]! * width
    const c = lines[3 * y + 2]! * cw
    for (let x = 0; x < outWidth;) {
      const c0 = c + chroma[x]!
      const c1 = c + chroma[x + 1]!
      const u = U[c0]! + U[c1]! - grey
      const v = V[c0]! + V[c1]! - grey
      const red = toRed * v + half
      const green = half - greenOfCb * u - greenOfCr * v
      const blue = toBlue * u + half
      for (const end = Math.min(outWidth, x + 2); x < end; x++) {
        const [p, q] = [luma[2 * x]!, luma[2 * x + 1]!]
        const l = 19077 * (Y[a + p]! + Y[a + q]! + Y[b + p]! + Y[b + q]! - black)
        rgb[o] = (l + red) >> shift
        rgb[o + 1] = (l + green) >> shift
        rgb[o + 2] = (l + blue) >> shift
        o += 3
      }
    }
  }
  return new Uint8Array(rgb.buffer)
}

/** The same by the kernel where there is one. */
export function preview(job: PreviewJob): Uint8Array {
  const fast = kernel()
  if (!fast) return previewPlain(job)
  const { planes, width, outWidth, outHeight } = job
  const { luma, chroma, lines } = tablesOf(job)
  const columns = new Int32Array(luma.length + chroma.length)
  columns.set(luma)
  columns.set(chroma, luma.length)
  const rgb = new Uint8Array(outWidth * outHeight * 3)
  const [y, u, v, columnsAt, linesAt, out] = fast.hold([...planes, columns, lines], rgb.byteLength)
  const bytes = planes[0].BYTES_PER_ELEMENT
  const cw = (width + 1) >> 1
  fast.run.preview(
    bytes,
    y!,
    u!,
    v!,
    width,
    cw,
    columnsAt!,
    linesAt!,
    outWidth,
    outHeight,
    out!,
    ...matrixOf(job.weights),
  )
  fast.take(out!, rgb)
  return rgb
}
