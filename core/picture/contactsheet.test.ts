import { expect, it } from 'vitest'
import { sheetFrames } from '../deliverable/spread'
import { contactSheet } from './contactsheet'
import { blackPicture, type Picture } from './picture'

const flat = (luma: number): Picture => {
  const p = blackPicture(640, 360, '4:2:0', 8)
  p.planes[0].fill(luma)
  return p
}
const at = (p: Picture, x: number, y: number) => p.planes[0][y * p.width + x]

it('lays pictures in rows of four, each in its own shape, with what is said above and below', () => {
  const lumas = [40, 60, 80, 100, 120, 140]
  const pictures = lumas.map((l, i) => ({ picture: flat(l), label: `0${i}` }))
  const sheet = contactSheet('Fog Bell', ['one', 'two'], pictures, 1)
  expect(sheet.width).toBe(16 + 4 * 496)
  const head = 16 + 36 + 2 * 24 + 16
  const row = 270 + 24 + 16
  expect(sheet.height).toBe(head + 2 * row)
  lumas.forEach((l, i) => {
    const [left, top] = [16 + (i % 4) * 496, head + Math.floor(i / 4) * row]
    const corners = [
      [0, 0],
      [479, 0],
      [0, 269],
      [479, 269],
    ] as const
    expect(corners.map(([x, y]) => at(sheet, left + x, top + y))).toEqual([l, l, l, l])
    expect([at(sheet, left - 1, top), at(sheet, left, top - 1)]).toEqual([30, 30])
  })
  const brightest = (from: number, to: number) =>
    Math.max(...sheet.planes[0].subarray(from * sheet.width, to * sheet.width))
  expect([brightest(16, 52), brightest(52, 76), brightest(head + 270, head + 294)]).toEqual([235, 180, 200])
  // the last two places of the second row are empty
  expect(at(sheet, 16 + 2 * 496 + 100, head + row + 100)).toBe(30)
})

it('keeps the shape of pictures whose pixels are not square', () => {
  const anamorphic = { picture: blackPicture(720, 576, '4:2:0', 8), label: '' }
  const heights = [64 / 45, 1].map((aspect) => contactSheet('', [], [anamorphic], aspect).height)
  // 16:9 is 270 lines at 480, 5:4 is 384
  expect(heights[1]! - heights[0]!).toBe(384 - 270)
})

it('shows the programme from its first picture to its last, and each once where there are few', () => {
  const sections = [
    { kind: 'black', frames: 75 },
    { kind: 'timeline', from: 0, frames: 101 },
  ]
  expect(sheetFrames({ frames: 101 }, 12)).toEqual([0, 9, 18, 27, 36, 45, 55, 64, 73, 82, 91, 100])
  expect(sheetFrames({ frames: 176, sections } as never, 12).at(0)).toBe(75)
  expect(sheetFrames({ frames: 176, sections } as never, 12).at(-1)).toBe(175)
  const parts = [...sections, { kind: 'black', frames: 50 }, { kind: 'timeline', from: 200, frames: 100 }]
  expect(sheetFrames({ frames: 326, sections: parts } as never, 3)).toEqual([75, 175, 325])
  expect(sheetFrames({ frames: 5 }, 12)).toEqual([0, 1, 2, 3, 4])
  expect(sheetFrames({ frames: 1 }, 12)).toEqual([0])
})
