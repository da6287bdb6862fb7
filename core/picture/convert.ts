import { convert, type Conversion } from '../kernel/convert'
import { packTable, type TableStage } from '../kernel/table'
import { lumaWeights, systems } from '../media/colour'
import type { Colour } from '../media/media'
import { toChroma422, type Picture } from './picture'

type Matrix = readonly number[]

const times = (a: Matrix, b: Matrix): Matrix =>
  Array.from({ length: 9 }, (_, i) => {
    const [row, column] = [Math.floor(i / 3) * 3, i % 3]
    return a[row]! * b[column]! + a[row + 1]! * b[column + 3]! + a[row + 2]! * b[column + 6]!
  })

function inverse([a, b, c, d, e, f, g, h, i]: Matrix): Matrix {
  const [A, B, C] = [e! * i! - f! * h!, f! * g! - d! * i!, d! * h! - e! * g!]
  const det = a! * A + b! * B + c! * C
  return [
    ...[A, c! * h! - b! * i!, b! * f! - c! * e!],
    ...[B, a! * i! - c! * g!, c! * d! - a! * f!],
    ...[C, b! * g! - a! * h!, a! * e! - b! * d!],
  ].map((v) => v / det)
}

/** CIE XYZ of the light of each primary, white having Y = 1 (SMPTE RP 177). */
function xyzOf(xy: readonly number[]): Matrix {
  const column = (k: number) => {
    const [x, y] = [xy[2 * k]!, xy[2 * k + 1]!]
    return [x / y, 1, (1 - x - y) / y]
  }
  const [r, g, b, w] = [column(0), column(1), column(2), column(3)]
  const p = [0, 1, 2].flatMap((i) => [r[i]!, g[i]!, b[i]!])
  const q = inverse(p)
  const s = [0, 1, 2].map((i) => q[3 * i]! * w[0]! + q[3 * i + 1]! * w[1]! + q[3 * i + 2]! * w[2]!)
  return p.map((v, i) => v * s[i % 3]!)
}

/** The light of each new primary by that of the old ones; null where either is not known here, or both are the same. */
export function lightMatrix(from: Colour, to: Colour): Matrix | null {
  const [a, b] = [from, to].map((c) => systems.find((s) => s.colour.primaries === c.primaries)?.xy)
  return !a || !b || a === b ? null : times(inverse(xyzOf(b)), xyzOf(a))
}

/**
 * How pictures of one colour become those of another: by the light of a display (ITU-R BT.2087, with the exponent 2.4
 * of BT.1886) where the primaries differ, else by the matrix alone. Null where there is nothing to do.
 */
export function conversionOf(from: Colour, to: Colour): Conversion | null {
  const light = lightMatrix(from, to)
  const same = lumaWeights(from.matrix) === lumaWeights(to.matrix)
  return !light && same ? null : { ...matricesOf(from, to), light, table: null }
}

/** How pictures of one colour become those that a table makes of them, which are of another. */
export const tableConversion = (from: Colour, to: Colour, stages: readonly TableStage[]): Conversion => ({
  ...matricesOf(from, to),
  light: null,
  table: packTable(stages),
})

function matricesOf(from: Colour, to: Colour): Pick<Conversion, 'from' | 'to'> {
  const [[kr, kb], b] = [lumaWeights(from.matrix), lumaWeights(to.matrix)]
  const kg = 1 - kr - kb
  const [red, blue] = [2 * (1 - kr), 2 * (1 - kb)]
  return {
    from: { red, greenU: (-kb / kg) * blue, greenV: (-kr / kg) * red, blue },
    to: [b[0], 1 - b[0] - b[1], b[1]],
  }
}

/** A picture by a conversion: 4:2:2 of 10 bits. */
export function converted(picture: Picture, by: Conversion): Picture {
  const { width, height, planes } = toChroma422(picture)
  return { width, height, chroma: '4:2:2', bitDepth: 10, planes: convert({ ...by, planes, width, height }) }
}
