import { expect, it } from 'vitest'
import { aspectOf, aspectParts, aspectValue, shapeOf } from './aspect'

it('pictures are as wide as their pixels make them', () => {
  expect(shapeOf({ width: 1920, height: 1080, pixelAspect: '1:1' })).toBeCloseTo(16 / 9)
  expect(shapeOf({ width: 720, height: 576, pixelAspect: '64:45' })).toBeCloseTo(16 / 9)
  expect(shapeOf({ width: 720, height: 576, pixelAspect: '16:15' })).toBeCloseTo(4 / 3)
  // what makes no sense, or is not there, is shown as most pictures are
  expect(shapeOf({ width: 1920, height: 1080, pixelAspect: 'wide' })).toBeCloseTo(16 / 9)
  expect(shapeOf({ width: 0, height: 0, pixelAspect: '1:1' })).toBeCloseTo(16 / 9)
  expect(shapeOf(null)).toBeCloseTo(16 / 9)
})

it('a pixel aspect is the same in numbers and in words', () => {
  for (const said of ['1:1', '64:45', '16:15', '12:11', '8:9']) expect(aspectOf(aspectValue(said))).toBe(said)
  expect(aspectParts('64:45')).toEqual([64, 45])
  expect(aspectParts('0:0')).toEqual([1, 1])
})
