import fc from 'fast-check'
import { expect, it } from 'vitest'
import { convert, convertPlain, type ConvertJob } from './convert'
import { noise } from './noise'

const from = { red: 1.5748, greenU: -0.1873, greenV: -0.4681, blue: 1.8556 }
const light = [0.6274, 0.3293, 0.0433, 0.0691, 0.9195, 0.0114, 0.0164, 0.088, 0.8956]
const job = (width: number, height: number, deep: boolean, seed: number, linear: boolean): ConvertJob => {
  const cw = (width + 1) >> 1
  const plane = (n: number, k: number) =>
    deep ? noise(new Uint16Array(n), 1023, seed + k) : noise(new Uint8Array(n), 255, seed + k)
  return {
    ...{ width, height, from, light: linear ? light : null, table: null, to: [0.2627, 0.678, 0.0593] },
    planes: [plane(width * height, 0), plane(cw * height, 1), plane(cw * height, 2)],
  }
}

it('converts by the kernel as plainly, for any size, depth and code', () => {
  const size = fc.integer({ min: 1, max: 40 })
  fc.assert(
    fc.property(size, size, fc.boolean(), fc.nat(), fc.boolean(), (width, height, deep, seed, linear) => {
      const j = job(width, height, deep, seed, linear)
      expect(convert(j)).toEqual(convertPlain(j))
    }),
  )
})

it('leaves codes that interfaces keep for themselves out', () => {
  for (const plane of convert(job(64, 32, true, 3, true))) for (const v of plane) expect(v > 3 && v < 1020).toBe(true)
})
