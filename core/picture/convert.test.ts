import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { systems } from '../media/colour'
import type { Colour } from '../media/media'
import { blackPicture, emptyPicture, type Picture } from './picture'
import { conversionOf, converted, lightMatrix } from './convert'

const [bt709, bt601, bt525, bt2020] = ['bt709', 'bt601-625', 'bt601-525', 'bt2020'].map(
  (name) => systems.find((s) => s.name === name)!.colour,
) as [Colour, Colour, Colour, Colour]

function flat(codes: readonly number[], bitDepth: 8 | 10 = 10): Picture {
  const p = emptyPicture(8, 2, '4:2:2', bitDepth)
  p.planes.forEach((plane, i) => plane.fill(codes[i]!))
  return p
}

/** The same in double precision from the formulas of the recommendations, with their own rounded figures. */
function reference(codes: readonly number[], from: Colour, to: Colour, matrix: readonly number[] | null) {
  const weights = new Map([
    [1, [0.2126, 0.0722]],
    [6, [0.299, 0.114]],
    [9, [0.2627, 0.0593]],
  ])
  const [kr, kb] = weights.get(from.matrix) as [number, number]
  const y = (codes[0]! - 64) / 876
  const r = y + 2 * (1 - kr) * ((codes[2]! - 512) / 896)
  const b = y + 2 * (1 - kb) * ((codes[1]! - 512) / 896)
  const g = (y - kr * r - kb * b) / (1 - kr - kb)
  const power = (v: number, e: number) => Math.sign(v) * Math.abs(v) ** e
  let rgb = [r, g, b]
  if (matrix) {
    const light = rgb.map((v) => power(v, 2.4))
    rgb = [0, 3, 6].map((i) =>
      power(matrix[i]! * light[0]! + matrix[i + 1]! * light[1]! + matrix[i + 2]! * light[2]!, 1 / 2.4),
    )
  }
  const [lr, lb] = weights.get(to.matrix) as [number, number]
  const l = lr * rgb[0]! + (1 - lr - lb) * rgb[1]! + lb * rgb[2]!
  return [64 + 876 * l, 512 + (896 * (rgb[2]! - l)) / (2 * (1 - lb)), 512 + (896 * (rgb[0]! - l)) / (2 * (1 - lr))]
}

/** ITU-R BT.2087-0 table 2; in more digits than it prints, as they follow from the chromaticities. */
const to2020 = [
  ...[0.6274038959, 0.3292830384, 0.0433130657, 0.0690972894, 0.9195403951, 0.0113623156],
  ...[0.0163914389, 0.0880133079, 0.8955952532],
]
const printed = [0.6274, 0.3293, 0.0433, 0.0691, 0.9195, 0.0114, 0.0164, 0.088, 0.8956]

describe('conversions of colour', () => {
  it('have the matrix that BT.2087 gives from 709 to 2020', () => {
    lightMatrix(bt709, bt2020)!.forEach((v, i) => {
      expect(v).toBeCloseTo(to2020[i]!, 8)
      expect(Math.abs(v - printed[i]!)).toBeLessThan(0.00005)
    })
    expect(lightMatrix(bt709, bt709)).toBeNull()
    expect(lightMatrix({ ...bt709, primaries: 2 }, bt2020)).toBeNull()
  })
  it('keep white white and black black, from each system to each other', () => {
    for (const a of systems)
      for (const b of systems) {
        const by = conversionOf(a.colour, b.colour)
        if (a === b) expect(by).toBeNull()
        else
          for (const code of [64, 502, 940]) {
            const p = converted(flat([code, 512, 512]), by!)
            expect([a.name, b.name, p.planes.map((x) => x[3])]).toEqual([a.name, b.name, [code, 512, 512]])
          }
      }
  })
  it.each([
    ['709', '2020', bt709, bt2020, to2020],
    ['709 of 625 lines', '709 by its matrix', { ...bt601, primaries: 1 }, bt709, null],
    ['709', '601 by its matrix', bt709, { ...bt525, primaries: 1 }, null],
  ] as const)('from %s to %s are within a code of the formulas', (_a, _b, from, to, matrix) => {
    const by = conversionOf(from, to)!
    fc.assert(
      fc.property(
        fc.integer({ min: 64, max: 940 }),
        fc.integer({ min: 300, max: 724 }),
        fc.integer({ min: 300, max: 724 }),
        (...codes) => {
          const wanted = reference(codes, from, to, matrix)
          const got = converted(flat(codes), by).planes.map((p) => p[4]!)
          // what lies beyond the codes there are is cut off
          wanted.forEach((v, i) => {
            const due = Math.min(1019, Math.max(4, v))
            expect(Math.abs(got[i]! - due)).toBeLessThan(matrix ? 0.6 : 0.51)
          })
        },
      ),
      { numRuns: 400 },
    )
  })
  it('come back to where they were, within two codes, for colours that both can show', () => {
    const there = conversionOf(bt709, bt2020)!
    const back = conversionOf(bt2020, bt709)!
    fc.assert(
      fc.property(
        fc.integer({ min: 200, max: 800 }),
        fc.integer({ min: 460, max: 560 }),
        fc.integer({ min: 460, max: 560 }),
        (...codes) => {
          const p = converted(converted(flat(codes), there), back)
          p.planes.forEach((plane, i) => expect(Math.abs(plane[4]! - codes[i]!)).toBeLessThanOrEqual(2))
        },
      ),
    )
  })
  it('take pictures of 8 bits and 4:2:0 as well', () => {
    const p = converted(blackPicture(6, 4, '4:2:0', 8), conversionOf(bt601, bt709)!)
    expect([p.chroma, p.bitDepth, ...p.planes.map((x) => x[0])]).toEqual(['4:2:2', 10, 64, 512, 512])
    // red of 625-line television, as bars have it at 75 %
    const red = converted(flat([65, 100, 212], 8), conversionOf({ ...bt601, primaries: 1 }, bt709)!)
    expect(red.planes.map((x) => x[4])).toEqual([204, 435, 848].map((v) => expect.closeTo(v, -1) as number))
  })
})
