import { kernel } from './kernel'
import type { Samples2d } from './scale'
import { throughTable, type PackedTable } from './table'

/** Steps of a signal, and of the fourth root of light, from 0 to 1; tables go up to 2. */
const curveSteps = 4096

/** Exponent between the signal and the light of a display (ITU-R BT.1886 with black at nothing). */
const gamma = 2.4

const table = (of: (x: number) => number) =>
  Float32Array.from({ length: 2 * curveSteps + 2 }, (_, i) => of(i / curveSteps))
/** Light by its signal. */
const lights = table((v) => v ** gamma)
/** A signal by the fourth root of its light, which is steep nowhere. */
const signals = table((t) => t ** (4 / gamma))

/** How colours are converted. */
export interface Conversion {
  /** From Y′CbCr: what Cr adds to R′, Cb and Cr to G′, Cb to B′, of differences in parts of a full one. */
  readonly from: { readonly red: number; readonly greenU: number; readonly greenV: number; readonly blue: number }
  /** Light of the new primaries by that of the old, row by row; null where both are the same. */
  readonly light: readonly number[] | null
  /** What R′, G′, B′ go through; null where there is no table. */
  readonly table: PackedTable | null
  /** Weights of R′, G′ and B′ in the new luma. */
  readonly to: readonly [red: number, green: number, blue: number]
}

export interface ConvertJob extends Conversion {
  /** Narrow-range 4:2:2, chroma sited with every other sample. */
  readonly planes: readonly [Samples2d, Samples2d, Samples2d]
  readonly width: number
  readonly height: number
}

type Converted = readonly [Uint16Array, Uint16Array, Uint16Array]

/** Everything that the loops count with, in one list. */
function constantsOf({ planes, from, light, to }: ConvertJob): Float32Array {
  const unit = planes[0] instanceof Uint16Array ? 4 : 1
  const m = light ?? [1, 0, 0, 0, 1, 0, 0, 0, 1]
  const chroma = 1 / (224 * unit)
  return Float32Array.of(
    ...[16 * unit, 128 * unit, 1 / (219 * unit)],
    ...[from.red * chroma, from.greenU * chroma, from.greenV * chroma, from.blue * chroma],
    ...m,
    ...to,
    // four weights of a filter, and differences of twice the size
    ...[896 / (8 * (1 - to[2])), 896 / (8 * (1 - to[0]))],
  )
}

// as the kernel has it: every step is rounded to 32 bits
const f = Math.fround
const most = f(1.999)

/** A signal's light, or by `signals` a signal from the fourth root of its light; the table's end holds for more. */
function looked(list: Float32Array, v: number): number {
  const x = f(Math.min(Math.abs(v), most) * curveSteps)
  const i = Math.floor(x)
  const found = f(list[i]! + f(f(list[i + 1]! - list[i]!) * f(x - i)))
  return v < 0 ? -found : found
}

const signalOf = (l: number) => looked(signals, f(Math.sqrt(f(Math.sqrt(Math.abs(l))))) * Math.sign(l))

/** A code of 10 bits; the lowest and highest are kept for interfaces (ITU-R BT.1120). */
function code(v: number): number {
  const w = Math.floor(f(f(v) + 0.5))
  return w >= 4 ? Math.min(w, 1019) : 4
}

/** The sum of three numbers by their weights. */
const row = (c: Float32Array, i: number, p: number, q: number, o: number) =>
  f(f(f(c[i]! * p) + f(c[i + 1]! * q)) + f(c[i + 2]! * o))

/** Pictures of other primaries, and of another matrix, as 4:2:2 of 10 bits: the reference of {@link convert}. */
export function convertPlain(job: ConvertJob): Converted {
  const { planes, width, height, light, table } = job
  const [Y, U, V] = planes
  const colour = new Float32Array(3)
  const c = constantsOf(job)
  const cw = (width + 1) >> 1
  const out = [new Uint16Array(width * height), new Uint16Array(cw * height), new Uint16Array(cw * height)] as const
  const [cb, cr] = [new Float32Array(width + 2), new Float32Array(width + 2)]
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const a = y * cw + (x >> 1)
      const b = x & 1 && (x >> 1) + 1 < cw ? a + 1 : a
      const u = (U[a]! + U[b]!) * 0.5 - c[1]!
      const v = (V[a]! + V[b]!) * 0.5 - c[1]!
      const l = f((Y[y * width + x]! - c[0]!) * c[2]!)
      let r = f(l + f(c[3]! * v))
      let g = f(f(l + f(c[4]! * u)) + f(c[5]! * v))
      let s = f(l + f(c[6]! * u))
      if (light) {
        const [p, q, o] = [looked(lights, r), looked(lights, g), looked(lights, s)]
        r = signalOf(row(c, 7, p, q, o))
        g = signalOf(row(c, 10, p, q, o))
        s = signalOf(row(c, 13, p, q, o))
      }
      if (table) {
        colour.set([r, g, s])
        throughTable(table, colour)
        ;[r, g, s] = colour as unknown as [number, number, number]
      }
      const luma = row(c, 16, r, g, s)
      out[0][y * width + x] = code(64 + f(876 * luma))
      cb[x + 1] = s - luma
      cr[x + 1] = r - luma
    }
    for (const d of [cb, cr]) {
      d[0] = d[1]!
      d[width + 1] = d[width]!
    }
    for (let x = 0; x < cw; x++) {
      const k = 2 * x + 1
      out[1][y * cw + x] = code(512 + f(c[19]! * f(f(cb[k - 1]! + 2 * cb[k]!) + cb[k + 1]!)))
      out[2][y * cw + x] = code(512 + f(c[20]! * f(f(cr[k - 1]! + 2 * cr[k]!) + cr[k + 1]!)))
    }
  }
  return out
}

/** The same by the kernel where there is one. */
export function convert(job: ConvertJob): Converted {
  const fast = kernel()
  if (!fast) return convertPlain(job)
  const { planes, width, height, light, table } = job
  const cw = (width + 1) >> 1
  const out = [new Uint16Array(width * height), new Uint16Array(cw * height), new Uint16Array(cw * height)] as const
  const held = [...planes, constantsOf(job), lights, signals]
  const tables = table ? [table.stages, table.grids] : []
  const all = fast.hold([...tables, ...held], ...out.map((o) => o.byteLength), 7 * 4 * (width + 16))
  const places = all.slice(tables.length)
  const bytes = planes[0].BYTES_PER_ELEMENT
  fast.run.convert(bytes, ...places, width, height, light ? 1 : 0, ...(table ? all.slice(0, 2) : [0, 0]))
  out.forEach((o, i) => fast.take(places[6 + i]!, o))
  return out
}
