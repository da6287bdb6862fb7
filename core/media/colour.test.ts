import { describe, expect, it } from 'vitest'
import { colour as described, colourKept } from '../measure/picture/colour'
import { bt709, colourOf, colourText, colourValue, lumaWeightsOf, shownWithout } from './colour'
import type { Colour } from './media'

const of = (primaries: number, transfer: number, matrix: number, fullRange = false): Colour => ({
  primaries,
  transfer,
  matrix,
  fullRange,
})

describe('the colour of what is made from others', () => {
  it.each<[string, Colour | null, Colour]>([
    ['of nothing said: BT.709', null, bt709],
    ['of full range: the same, in narrow range', of(1, 13, 1, true), of(1, 13, 1)],
    ['of a range alone: BT.709', of(2, 2, 2, true), bt709],
    ['of parts unspecified: those are BT.709', of(9, 2, 9), of(9, 1, 9)],
    ['of HLG: HLG, which nothing here converts', of(9, 18, 9), of(9, 18, 9)],
  ])('%s', (_, colour, made) => expect(colourOf({ colour, width: 1920, height: 1080 })).toEqual(made))
  it.each([
    [720, 576, of(5, 6, 6)],
    [768, 576, of(5, 6, 6)],
    [720, 608, of(5, 6, 6)],
    [720, 486, of(6, 6, 6)],
    [704, 480, of(6, 6, 6)],
    [640, 360, bt709],
    [1024, 576, bt709],
    [1280, 720, bt709],
  ])('of nothing said of %d×%d is what is usual for it', (width, height, made) => {
    expect(colourOf({ colour: null, width, height })).toEqual(made)
    expect(colourOf({ colour: of(2, 2, 2), width, height })).toEqual(made)
    expect(colourOf({ colour: of(made.primaries, 2, 2), width, height })).toEqual(made)
    expect(colourOf({ colour: bt709, width, height })).toEqual(bt709)
    expect(lumaWeightsOf({ colour: null, width, height })).toEqual(made === bt709 ? [0.2126, 0.0722] : [0.299, 0.114])
  })
})

describe('colour in words', () => {
  it('is named where it has a name, else by its code points', () => {
    expect([null, bt709, of(9, 18, 9), of(1, 13, 1, true), of(12, 4, 0)].map(colourText)).toEqual([
      'not described',
      'BT.709',
      'BT.2100 HLG',
      'BT.709 with the sRGB curve, full range',
      'H.273 12/4/0',
    ])
    expect([colourValue(bt709), colourValue(of(1, 1, 1, true))]).toEqual(['1/1/1', '1/1/1 full'])
  })
})

describe('what rules ask about colour', () => {
  const video = { colour: bt709 } as never
  it('is what a file states', () => {
    expect(described.read({ described: { video } as never })).toEqual({ value: '1/1/1', text: 'BT.709' })
    expect(described.read({ described: { video: { colour: null } } as never })?.value).toBe('none')
    expect(described.read({})).toBeNull()
  })
  it('and whether that is what was asked for', () => {
    const kept = (written: Colour | null, asked: Colour | null) => colourKept.read({ colours: { written, asked } })
    expect(kept(bt709, bt709)).toEqual({ value: true, text: 'BT.709' })
    expect(kept(null, null)?.value).toBe(true)
    expect(kept(of(1, 1, 1, true), bt709)).toEqual({
      value: false,
      text: 'BT.709, full range where BT.709 was asked for',
    })
    expect(kept(null, bt709)?.value).toBe(false)
    expect(colourKept.read({})).toBeNull()
  })
})

it.each<[string | null, Colour]>([
  [null, bt709],
  [null, of(5, 6, 6)],
  ['PQ', of(9, 16, 9)],
  ['HLG', of(9, 18, 9)],
  ['BT.2020', of(9, 14, 9)],
])('pictures are shown without %s', (what, colour) => expect(shownWithout(colour)).toBe(what))
