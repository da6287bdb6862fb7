import fc from 'fast-check'
import { expect, it } from 'vitest'
import { lumaWeights } from '../media/colour'
import { blackPicture, emptyPicture } from './picture'
import { pictureOfRgb, rgbOf } from './rgb'

const flat = (r: number, g: number, b: number, width = 6, height = 2) => ({
  ...{ width, height },
  rgb: Float32Array.from({ length: width * height * 3 }, (_, i) => [r, g, b][i % 3]!),
})

/** Codes of bars in 10 bits (ITU-R BT.709 3.4, 3.5; computed in double precision). */
it.each([
  ['white', [1, 1, 1], [940, 512, 512]],
  ['black', [0, 0, 0], [64, 512, 512]],
  ['yellow at 75 %', [0.75, 0.75, 0], [674, 176, 543]],
  ['blue at 75 %', [0, 0, 0.75], [111, 848, 481]],
])('gives the codes of %s', (_, [r, g, b], codes) => {
  const p = pictureOfRgb(flat(r!, g!, b!), 10)
  expect(p.planes.map((plane) => plane[0])).toEqual(codes)
})

it.each([1, 5, 6, 9])('gives flat colours back to the code, with matrix %d', (matrix) => {
  const weights = lumaWeights(matrix)
  fc.assert(
    fc.property(fc.tuple(...[0, 1, 2].map(() => fc.float({ min: 0, max: 1, noNaN: true }))), ([r, g, b]) => {
      const p = pictureOfRgb(flat(r!, g!, b!), 10, weights)
      const back = rgbOf(p, weights)
      // half a code of luma and of each difference
      for (const [k, v] of [r!, g!, b!].entries()) expect(Math.abs(back.rgb[k]! - v)).toBeLessThan(0.0016)
      expect(pictureOfRgb(back, 10, weights).planes.map((x) => x[0])).toEqual(p.planes.map((x) => x[0]))
    }),
  )
})

it('keeps what lies above white and below black', () => {
  const p = blackPicture(4, 2, '4:2:2', 10)
  p.planes[0].fill(1000)
  expect(rgbOf(p).rgb[0]).toBeCloseTo((1000 - 64) / 876, 5)
  expect(pictureOfRgb(rgbOf(p), 10).planes[0][0]).toBe(1000)
  p.planes[0].fill(20)
  expect(pictureOfRgb(rgbOf(p), 10).planes[0][0]).toBe(20)
})

it('never uses codes that interfaces keep for themselves', () => {
  const p = pictureOfRgb(flat(9, 9, -9), 8)
  for (const plane of p.planes) for (const v of plane) expect(v > 0 && v < 255).toBe(true)
})

it('sites chroma with every other sample: a step stays where it is', () => {
  const p = emptyPicture(16, 1, '4:2:2', 10)
  p.planes[0].fill(500)
  p.planes[1].fill(512)
  for (let x = 0; x < 8; x++) p.planes[2][x] = x < 4 ? 400 : 600
  const back = pictureOfRgb(rgbOf(p), 10).planes[2]
  // half way between both where the step is, and the same to either side of it
  expect(back[3]! - 400).toBe(600 - back[4]!)
  expect([back[2], back[5]]).toEqual([400, 600])
})
