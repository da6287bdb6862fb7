import { kernel } from './kernel'
import type { Samples2d } from './scale'
import { throughTable, type PackedTable } from './table'

/** Steps of a signal, and of the fourth root of light, from 0 to 1; tables go up to 2. */
const curveSteps = 4096

/** Exponent between the signal and the light of a display (ITU-R BT.1886 with black at nothing). */
const gamma = 2.4

const table = (of: (x: number) => number) =>
  Float64Array.from({ length: 2 * curveSteps + 2 }, (_, i) => of(i / curveSteps))
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
function constantsOf({ planes, from, light, to }: ConvertJob): Float64Array {
  const unit = planes[0] instanceof Uint16Array ? 4 : 1
  const m = light ?? [1, 0, 0, 0, 1, 0, 0, 0, 1]
  const chroma = 1 / (224 * unit)
  return Float64Array.of(
    ...[16 * unit, 128 * unit, 1 / (219 * unit)],
    ...[from.red * chroma, from.greenU * chroma, from.greenV * chroma, from.blue * chroma],
    ...m,
    ...to,
    // four weights of a filter, and differences of twice the size
    ...[896 / (8 * (1 - to[2])), 896 / (8 * (1 - to[0]))],
  )
}

/** A signal's light, or by `signals` a signal from the fourth root of its light; the table's end holds for more. */
function looked(list: Float64Array, v: number): number {
  const x = v * curveSteps
  const i = Math.min(Math.floor(x), 2 * curveSteps)
  return list[i]! + (list[i + 1]! - list[i]!) * (x - i)
}

const most = 1.999
const lightOf = (v: number) => (v < 0 ? -looked(lights, Math.min(-v, most)) : looked(lights, Math.min(v, most)))
const signalOf = (l: number) => {
  const t = Math.min(Math.sqrt(Math.sqrt(Math.abs(l))), most)
  return l < 0 ? -looked(signals, t) : looked(signals, t)
}

/** A code of 10 bits; the lowest and highest are kept for interfaces (ITU-R BT.1120). */
function code(v: number): number {
  const w = Math.floor(v + 0.5)
  return w < 4 ? 4 : w > 1019 ? 1019 : w
}

/** Pictures of other primaries, and of another matrix, as 4:2:2 of 10 bits: the reference of {@link convert}. */
export function convertPlain(job: ConvertJob): Converted {
  const { planes, width, height, light, table } = job
  const [Y, U, V] = planes
  const colour = new Float64Array(3)
  const c = constantsOf(job)
  const cw = (width + 1) >> 1
  const out = [new Uint16Array(width * height), new Uint16Array(cw * height), new Uint16Array(cw * height)] as const
  const [cb, cr] = [new Float64Array(width + 2), new Float64Array(width + 2)]
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const a = y * cw + (x >> 1)
      const b = x & 1 && (x >> 1) + 1 < cw ? a + 1 : a
      const u = (U[a]! + U[b]!) * 0.5 - c[1]!
      const v = (V[a]! + V[b]!) * 0.5 - c[1]!
      const l = (Y[y * width + x]! - c[0]!) * c[2]!
      let r = l + c[3]! * v
      let g = l + c[4]! * u + c[5]! * v
      let s = l + c[6]! * u
      if (light) {
        const [p, q, o] = [lightOf(r), lightOf(g), lightOf(s)]
        r = signalOf(c[7]! * p + c[8]! * q + c[9]! * o)
        g = signalOf(c[10]! * p + c[11]! * q + c[12]! * o)
        s = signalOf(c[13]! * p + c[14]! * q + c[15]! * o)
      }
      if (table) {
        colour.set([r, g, s])
        throughTable(table, colour)
        ;[r, g, s] = colour as unknown as [number, number, number]
      }
      const luma = c[16]! * r + c[17]! * g + c[18]! * s
      out[0][y * width + x] = code(64 + 876 * luma)
      cb[x + 1] = s - luma
      cr[x + 1] = r - luma
    }
    for (const d of [cb, cr]) {
      d[0] = d[1]!
      d[width + 1] = d[width]!
    }
    for (let x = 0; x < cw; x++) {
      const k = 2 * x + 1
      out[1][y * cw + x] = code(512 + c[19]! * (cb[k - 1]! + 2 * cb[k]! + cb[k + 1]!))
      out[2][y * cw + x] = code(512 + c[20]! * (cr[k - 1]! + 2 * cr[k]! + cr[k + 1]!))
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
  const all = fast.hold([...tables, ...held], ...out.map((o) => o.byteLength), 16 * (width + 2) + 24 * width)
  const places = all.slice(tables.length)
  const bytes = planes[0].BYTES_PER_ELEMENT
  fast.run.convert(bytes, ...places, width, height, light ? 1 : 0, ...(table ? all.slice(0, 2) : [0, 0]))
  out.forEach((o, i) => fast.take(places[6 + i]!, o))
  return out
}
