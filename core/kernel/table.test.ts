import fc from 'fast-check'
import { expect, it } from 'vitest'
import { halves, toHalf } from '../half'
import { convert, convertPlain, type ConvertJob } from './convert'
import { noise } from './noise'
import { packTable, throughTable, type TableStage } from './table'

const unit = { low: [0, 0, 0], high: [1, 1, 1] }
/** A cube of points that a function gives. */
function cube(size: number, of: (r: number, g: number, b: number) => readonly number[], domain = unit): TableStage {
  const points = new Float32Array(size ** 3 * 3)
  let at = 0
  for (let r = 0; r < size; r++)
    for (let g = 0; g < size; g++)
      for (let b = 0; b < size; b++) {
        const place = [r, g, b].map((n, i) => domain.low[i]! + (n / (size - 1)) * (domain.high[i]! - domain.low[i]!))
        points.set(of(...(place as [number, number, number])), at)
        at += 3
      }
  return { kind: 'grid', size, points, ...domain }
}
const through = (stages: readonly TableStage[], c: readonly number[]) => {
  const out = Float32Array.from(c)
  throughTable(packTable(stages), out)
  return [...out]
}
const near = (a: readonly number[], b: readonly number[], within = 1e-6) =>
  a.forEach((v, i) => expect(Math.abs(v - b[i]!)).toBeLessThan(within))

it('a cube of what is straight gives just that, anywhere within it, and its ends beyond', () => {
  const of = (r: number, g: number, b: number) => [0.2 * r + 0.7 * g + 0.1 * b, 1 - g, 0.5 * b + 0.25]
  const stages = [cube(5, of)]
  const part = fc.double({ min: 0, max: 1, noNaN: true })
  fc.assert(fc.property(part, part, part, (r, g, b) => near(through(stages, [r, g, b]), of(r, g, b))))
  near(through(stages, [-1, 2, 0.5]), of(0, 1, 0.5))
})

it('greys stay grey where the points of greys are, whatever lies beside them', () => {
  const stages = [cube(4, (r, g, b) => (r === g && g === b ? [r ** 2, r ** 2, r ** 2] : [r, 1 - b, g * b]))]
  fc.assert(
    fc.property(fc.double({ min: 0, max: 1, noNaN: true }), (v) => {
      const [r, g, b] = through(stages, [v, v, v])
      near([r!, g!], [b!, b!], 1e-7)
    }),
  )
})

it('a point of a cube is its own, and red, green and blue are not taken for each other', () => {
  const stages = [cube(3, (r, g, b) => [r === 0.5 && g === 1 && b === 0 ? 0.9 : 0, 0, 0])]
  near(through(stages, [0.5, 1, 0]), [0.9, 0, 0])
  for (const other of [
    [1, 0.5, 0],
    [0, 1, 0.5],
    [0.5, 0, 1],
  ])
    near(through(stages, other), [0, 0, 0])
})

it('stages follow each other: rows, ends, curves', () => {
  const rows = [0, 1, 0, 0.1, 1, 0, 0, 0, 0, 0, 2, -0.5]
  const curve = (...p: number[]) => Float64Array.from(p)
  const stages: TableStage[] = [
    { kind: 'matrix', rows },
    { kind: 'clamp', low: 0, high: 1 },
    { kind: 'curves', low: [0, 0, -1], high: [1, 1, 1], points: [curve(0, 0.5, 0.6), curve(1, 0, 1), curve(5, 6, 7)] },
  ]
  near(through(stages, [0.25, 0.4, 0.9]), [0.5, 0.5, 7])
  near(through(stages, [0.5, -3, 0.25]), [0, 0, 6])
})

/** A curve of each over half floats. */
const curvesOf = (...of: readonly ((v: number) => number)[]): TableStage => ({
  kind: 'halves',
  points: of.map((g) => halves.map((v) => g(Math.max(-65_504, Math.min(65_504, Number.isNaN(v) ? 0 : v))))),
})

it('a curve over half floats has a point at each of them, and is straight between two', () => {
  const stages = [
    curvesOf(
      (v) => v * v,
      Math.cbrt,
      (v) => 2 - v,
    ),
  ]
  // red, green and blue each by its own
  near(through(stages, [0.5, -0.125, 3]), [0.25, -0.5, -1])
  fc.assert(
    fc.property(fc.double({ min: -70_000, max: 70_000, noNaN: true }), fc.integer({ min: 0, max: 40 }), (far, by) => {
      const v = Math.fround(far * 2 ** -by)
      const [square, , straight] = through(stages, [v, 0, v]) as [number, number, number]
      const held = Math.max(-65_504, Math.min(65_504, v))
      expect(Math.abs(square - held ** 2)).toBeLessThanOrEqual(held ** 2 * 1e-6 + 1e-14)
      expect(Math.abs(straight - (2 - held))).toBeLessThanOrEqual((2 + Math.abs(held)) * 2 ** -22)
    }),
  )
  const half = halves[toHalf(0.1)]!
  expect(through([curvesOf((v) => (v === half ? 9 : 0), Math.abs, Math.abs)], [half, -0, -1e-9])[0]).toBe(9)
})

it('the kernel gives the same codes as the reference, for any cube and size', () => {
  const size = fc.integer({ min: 1, max: 24 })
  fc.assert(
    fc.property(
      size,
      size,
      fc.integer({ min: 2, max: 6 }),
      fc.boolean(),
      fc.nat(),
      (width, height, side, deep, seed) => {
        const cw = (width + 1) >> 1
        const plane = (n: number, k: number) =>
          deep ? noise(new Uint16Array(n), 1023, seed + k) : noise(new Uint8Array(n), 255, seed + k)
        const points = Float32Array.from(noise(new Uint16Array(side ** 3 * 3), 1023, seed + 7), (v) => v / 900)
        const table = packTable([
          { kind: 'curves', ...unit, points: [0, 1, 2].map((k) => Float64Array.of(k / 9, 0.5, 0.4, 1)) },
          { kind: 'matrix', rows: [0.9, 0.1, 0, 0, 0, 1, 0, 0.01, 0.2, 0, 0.8, -0.01] },
          { kind: 'grid', low: [-0.1, 0, 0], high: [1, 1, 1.2], size: side, points },
          { kind: 'clamp', low: 0, high: 1.05 },
          curvesOf(
            (v) => Math.cbrt(v),
            (v) => v + (seed % 3) / 9,
            (v) => v * Math.abs(v),
          ),
        ])
        const job: ConvertJob = {
          ...{ width, height, light: null, table, to: [0.2126, 0.7152, 0.0722] },
          from: { red: 1.5748, greenU: -0.1873, greenV: -0.4681, blue: 1.8556 },
          planes: [plane(width * height, 0), plane(cw * height, 1), plane(cw * height, 2)],
        }
        expect(convert(job)).toEqual(convertPlain(job))
      },
    ),
  )
})
