import { expect, it } from 'vitest'
import {
  fieldsOf,
  fieldWork,
  fitScan,
  joinedFields,
  pairedFields,
  toChroma420Of,
  toChroma422Of,
  turned,
  woven,
} from './fields'
import { emptyPicture, toChroma422, type Picture } from './picture'

/** A picture whose luma at each line is what a function of the line's place from the top (0 … 1) says. */
function painted(
  width: number,
  height: number,
  of: (y: number, x: number) => number,
  chroma: Picture['chroma'] = '4:2:2',
): Picture {
  const p = emptyPicture(width, height, chroma, 10)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) p.planes[0][y * width + x] = Math.round(of((y + 0.5) / height, x))
  p.planes[1].fill(512)
  p.planes[2].fill(512)
  return p
}
const line = (p: Picture, y: number) => p.planes[0][y * p.width]!

it('fields are every other line, and make the picture again', () => {
  const p = painted(8, 16, (y, x) => 64 + y * 800 + x, '4:2:0')
  p.planes[1].forEach((_, i) => (p.planes[1][i] = i))
  const [upper, lower] = fieldsOf(p)
  expect([line(upper, 0), line(upper, 1), line(lower, 0)]).toEqual([line(p, 0), line(p, 2), line(p, 1)])
  expect(upper.planes[1].slice(0, 8)).toEqual(Uint16Array.of(0, 1, 2, 3, 8, 9, 10, 11))
  expect(woven(upper, lower).planes).toEqual(p.planes)
})

it('what becomes of fields follows from what goes in and what comes out', () => {
  expect(fieldWork('interlaced-tff', 'interlaced-tff')).toBe('keep')
  expect(fieldWork('interlaced', 'progressive')).toBe('join')
  expect(fieldWork('segmented', 'interlaced-tff')).toBe('none')
  expect(fieldWork('interlaced-tff', 'interlaced-bff')).toBe('lower')
  expect(fieldWork('interlaced-bff', 'interlaced-tff')).toBe('higher')
  // an order that is not said may be the one that is wanted
  expect(fieldWork('interlaced', 'interlaced-tff')).toBe('keep')
})

it('fields that are scaled take nothing of each other, and lie where they lay', () => {
  const raster = { width: 16, height: 32, fit: 'stretch' } as const
  // one field white, the other black: as different as two moments can be
  const moments = painted(16, 64, () => 0)
  moments.planes[0].forEach((_, i) => (moments.planes[0][i] = Math.floor(i / 16) % 2 ? 64 : 940))
  const kept = fitScan(moments, raster, 'keep')
  for (let y = 0; y < 32; y++) expect(line(kept, y)).toBe(y % 2 ? 64 : 940)
  expect(line(fitScan(moments, raster, 'none'), 9)).toBeGreaterThan(300)
  // a slope from top to bottom stays one, without a step from line to line
  const slope = painted(16, 64, (y) => 64 + 800 * y)
  for (const height of [32, 128]) {
    const still = fitScan(slope, { ...raster, height }, 'keep')
    for (let y = 8; y < height - 8; y++)
      expect(Math.abs(line(still, y) - (64 + (800 * (y + 0.5)) / height))).toBeLessThan(1.1)
  }
})

it('fields are turned by a line, whole and unscaled: what came first is the other field, and comes first', () => {
  const p = painted(8, 16, (y, x) => 64 + Math.round(y * 16 - 0.5) * 40 + x)
  p.planes[1].forEach((_, i) => (p.planes[1][i] = 100 + i))
  for (const work of ['lower', 'higher'] as const) {
    const [[upper, lower], [above, below]] = [fieldsOf(p), fieldsOf(turned(p, work))]
    const by = work === 'lower' ? 0 : 1
    for (let y = 1; y < 7; y++) {
      expect([line(below, y), line(above, y)]).toEqual([line(upper, y + by), line(lower, y - 1 + by)])
      expect(below.planes[1][y * 4]).toBe(upper.planes[1][(y + by) * 4])
    }
    // a line at the edge is made of its own field
    expect(line(above, 0)).toBe(line(lower, 0))
    expect(line(below, 7)).toBe(line(upper, 7))
  }
  const twice = turned(turned(p, 'lower'), 'higher')
  expect(twice.planes.map((c) => c.subarray(0, -8))).toEqual(p.planes.map((c) => c.subarray(0, -8)))
})

it('joined fields are the picture where nothing moved, and the upper field’s where something did', () => {
  const still = painted(16, 32, (y, x) => 300 + 200 * Math.sin(y * 9) + x)
  expect(joinedFields(still).planes).toEqual(still.planes)
  const moved = painted(16, 32, () => 0)
  moved.planes[0].forEach((_, i) => (moved.planes[0][i] = Math.floor(i / 16) % 2 ? (i % 16 < 8 ? 900 : 200) : 200))
  const joined = joinedFields(moved).planes[0]
  expect(new Set(joined.subarray(0, 31 * 16))).toEqual(new Set([200]))
})

it('chroma of one field is not made from that of the other', () => {
  const p = painted(8, 16, () => 500, '4:2:0')
  p.planes[1].forEach((_, i) => (p.planes[1][i] = Math.floor(i / 4) % 2 ? 100 : 900))
  const finer = toChroma422Of(p, 'keep')
  for (let y = 0; y < 16; y++) expect(finer.planes[1][y * 4]).toBe(y % 2 ? 100 : 900)
  expect(toChroma422Of(p, 'none').planes).toEqual(toChroma422(p).planes)
})

it('chroma with half the lines keeps to its field where there are two', () => {
  const p = painted(8, 16, () => 500, '4:2:2')
  p.planes[1].forEach((_, i) => (p.planes[1][i] = Math.floor(i / 4) % 2 ? 100 : 900))
  const coarser = toChroma420Of(p, 'interlaced-tff')
  for (let y = 0; y < 8; y++) expect(coarser.planes[1][y * 4]).toBe(y % 2 ? 100 : 900)
  expect(new Set(toChroma420Of(p, 'segmented').planes[1])).toEqual(new Set([500]))
})

it('two pictures make two fields: each of one moment only, the first of them in the lines that come first', () => {
  const flat = (v: number) => painted(8, 16, () => v)
  for (const [scan, odd] of [
    ['interlaced-tff', 1],
    ['interlaced-bff', 0],
  ] as const) {
    const p = pairedFields(flat(100), flat(900), scan)
    for (let y = 0; y < 16; y++) expect([scan, y, line(p, y)]).toEqual([scan, y, y % 2 === odd ? 900 : 100])
  }
})

it('fields of one moment lie where its lines lay, and a single line is spread over both of them', () => {
  // a slope is the same after it, but for the two lines at the edges
  const slope = painted(8, 16, (y) => 64 + 640 * y)
  const same = pairedFields(slope, slope, 'interlaced-tff')
  for (let y = 1; y < 15; y++) expect(line(same, y)).toBe(line(slope, y))
  for (const at of [6, 7]) {
    const single = painted(8, 16, (y) => (Math.floor(y * 16) === at ? 464 : 64))
    const p = pairedFields(single, single, 'interlaced-tff')
    expect([at - 1, at, at + 1].map((y) => line(p, y))).toEqual([164, 264, 164])
  }
  // chroma goes the same way
  const coloured = painted(8, 16, () => 64)
  coloured.planes[1].fill(912, 4 * 4, 4 * 5)
  const { planes } = pairedFields(coloured, coloured, 'interlaced-tff')
  expect([3, 4, 5].map((y) => planes[1][y * 4])).toEqual([612, 712, 612])
})
