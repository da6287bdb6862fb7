import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { bt709 } from './colour'
import {
  contradictionText,
  heldTogether,
  joinedColour,
  untoldBy,
  untoldText,
  type StatedColour,
  type StatedPictures,
} from './stated'

const colour = (primaries: number, transfer: number, matrix: number, fullRange: boolean | null = null) => ({
  ...{ primaries, transfer, matrix },
  fullRange,
})
const pictures: StatedPictures = { width: 1920, height: 1080, chroma: '4:2:2', bitDepth: 10, colour: bt709 }
const held = (container: object, own: object = {}) =>
  heldTogether(container, { ...pictures, ...own }).contradictions?.map(contradictionText)

describe('what a container and its pictures state', () => {
  it('agrees where both say the same, and where one of them says nothing', () => {
    expect(held(pictures)).toEqual([])
    expect(held({})).toEqual([])
    expect(held({ scan: 'interlaced-tff', pixelAspect: '1:1' })).toEqual([])
    expect(held({ width: null, height: null, colour: null, bitDepth: null })).toEqual([])
  })
  it('is told in which it differs', () => {
    expect(held({ width: 1440, height: 1080 })).toEqual([
      'raster: 1440×1080 in the container, 1920×1080 in the pictures',
    ])
    expect(held({ bitDepth: 8, chroma: '4:2:0' })).toEqual([
      'chroma: 4:2:0 in the container, 4:2:2 in the pictures',
      'depth: 8 bit in the container, 10 bit in the pictures',
    ])
    expect(held({ colour: colour(9, 14, 9) })).toEqual(['colour: BT.2020 in the container, BT.709 in the pictures'])
  })
  it('agrees where two codes stand for the same curve, matrix or primaries, and no further', () => {
    const own = { colour: { ...bt709, primaries: 6, transfer: 6, matrix: 6 } }
    expect(held({ colour: colour(7, 1, 5) }, own)).toEqual([])
    expect(held({ colour: colour(5, 6, 6) }, own)).toHaveLength(1)
    expect(held({ colour: colour(2, 2, 2) }, own)).toEqual([])
    expect(held({ colour: colour(6, 16, 6) }, own)).toHaveLength(1)
  })
  it('differs in range only where both state one', () => {
    const full = { colour: { ...bt709, fullRange: true } }
    expect(held({ colour: colour(1, 1, 1) }, full)).toEqual([])
    expect(held({ colour: colour(1, 1, 1, false) }, full)).toEqual([
      'colour: BT.709 in the container, BT.709, full range in the pictures',
    ])
  })
  it('takes shapes within 3 % for the same, and orders for others only where both are orders', () => {
    expect(held({ pixelAspect: '16:11' }, { pixelAspect: '64:45' })).toEqual([])
    expect(held({ pixelAspect: '1:1' }, { pixelAspect: '64:45' })).toHaveLength(1)
    expect(held({ scan: 'segmented' }, { scan: 'interlaced-tff' })).toEqual([])
    expect(held({ scan: 'interlaced-bff' }, { scan: 'interlaced-tff' })).toHaveLength(1)
  })
  it('is not compared where the pictures say nothing themselves', () => {
    expect(heldTogether({ width: 1920, height: 1080 }, {})).toEqual({})
  })
})

it('what neither place states is not told', () => {
  expect(untoldBy({ scan: 'progressive' }, { chroma: '4:2:0', bitDepth: 8 })).toEqual({})
  expect(untoldBy({ scan: null, bitDepth: 10 }, {})).toEqual({ untold: ['scan', 'chroma'] })
  expect([untoldText({}), untoldText({ untold: ['scan', 'bitDepth'] })]).toEqual(['', 'scan and depth'])
})

it('a colour is joined part by part, the container first (property)', () => {
  const code = fc.constantFrom(1, 2, 5, 6, 9)
  const any = fc.record({ primaries: code, transfer: code, matrix: code, fullRange: fc.boolean() })
  const stated = fc.record({
    ...{ primaries: code, transfer: code, matrix: code },
    fullRange: fc.constantFrom(true, false, null),
  })
  fc.assert(
    fc.property(fc.option(stated), fc.option(any), (container: StatedColour | null, own) => {
      const joined = joinedColour(container, own)
      for (const part of ['primaries', 'transfer', 'matrix'] as const) {
        const said = container && container[part] !== 2 ? container[part] : own?.[part]
        expect(joined?.[part] ?? 2).toBe(said ?? 2)
      }
      expect(joined?.fullRange ?? false).toBe(container?.fullRange ?? own?.fullRange ?? false)
    }),
  )
})
