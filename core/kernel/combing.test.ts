import fc from 'fast-check'
import { expect, it } from 'vitest'
import { columnsOf, combed, combedPlain } from './combing'
import { noise } from './noise'

it('counts by the kernel as plainly, for any size and depth', () => {
  const width = fc.integer({ min: 1, max: 400 })
  const height = fc.integer({ min: 1, max: 60 })
  fc.assert(
    fc.property(width, height, fc.boolean(), fc.nat(), fc.constantFrom(1, 4, 16), (w, h, wide, seed, calm) => {
      const [a, b] = [0, 1].map((k) => {
        const plane = noise(wide ? new Uint16Array(w * h) : new Uint8Array(w * h), wide ? 1023 : 255, seed + k)
        return columnsOf(plane.map((v) => v / calm) as typeof plane, w, h)
      })
      expect(combed(a!, b!)).toEqual(combedPlain(a!, b!))
    }),
    { numRuns: 300 },
  )
})

it('takes the middle of every so many samples, wherever lines begin in memory', () => {
  for (const [width, step] of [
    [200, 64],
    [201, 64],
    [1300, 128],
    [1302, 128],
  ] as const)
    for (const offset of [0, 1, 2])
      for (const make of [Uint8Array, Uint16Array]) {
        const plane = noise(new make(width * 3 + offset), 255, width).subarray(offset)
        const { samples, ...size } = columnsOf(plane, width, 3)
        const places = Array.from({ length: width }, (_, x) => x).filter((x) => {
          const from = step / 2 - 8
          return x % step >= from && x % step < from + 16 && x - (x % step) + step <= width
        })
        expect(size).toEqual({ width: places.length, height: 3 })
        expect([...samples]).toEqual([0, 1, 2].flatMap((y) => places.map((x) => plane[y * width + x])))
      }
})

/** A bright bar, eight samples wide, at a place of its own in each field. */
function bar(upper: number, lower: number, wide = false) {
  const [width, height] = [128, 40]
  const plane = wide ? new Uint16Array(width * height) : new Uint8Array(width * height)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = y % 2 ? lower : upper
      plane[y * width + x] = (x >= from && x < from + 8 ? 200 : 60) << (wide ? 2 : 0)
    }
  return columnsOf(plane, width, height)
}

it('counts what lies between the places of two fields', () => {
  // 38 lines have neighbours; a bar that is two samples off differs in two on each of its sides
  for (const wide of [false, true]) {
    const [still, moved] = [bar(26, 26, wide), bar(28, 28, wide)]
    expect(combed(still, still)).toEqual({ samples: 32 * 38, own: 0, topAfter: 0, bottomAfter: 0 })
    expect(combed(moved, still)).toMatchObject({ own: 0, topAfter: 4 * 38, bottomAfter: 4 * 38 })
    // of two moments, top first: its top field comes right after the bottom one before
    expect(combed(bar(28, 29, wide), bar(26, 27, wide))).toMatchObject({ own: 76, topAfter: 76, bottomAfter: 228 })
    expect(combed(bar(29, 28, wide), bar(27, 26, wide))).toMatchObject({ own: 76, topAfter: 228, bottomAfter: 76 })
  }
})

it('leaves alike what differs by ten codes', () => {
  const lines = (step: number) =>
    columnsOf(
      new Uint8Array(64 * 5).map((_, i) => ((i >> 6) % 2 ? 100 + step : 100)),
      64,
      5,
    )
  expect(combed(lines(10), lines(10)).own).toBe(0)
  expect(combed(lines(11), lines(11)).own).toBe(16 * 3)
})
