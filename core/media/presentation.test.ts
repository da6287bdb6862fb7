import { describe, expect, it } from 'vitest'
import {
  afterwards,
  asked,
  edgesText,
  placed,
  placingText,
  presentationOfCopy,
  presentationTexts,
  shownShape,
  silencedText,
} from './presentation'

const hd = { width: 1920, height: 1080, pixelAspect: '1:1' }
const sd = { width: 720, height: 576, pixelAspect: '64:45' }

describe('a map of the plane', () => {
  it.each([
    ['none', [1, 0, 0, 1], {}],
    ['a quarter to the right', [0, 1, -1, 0], { turned: 90 }],
    ['upside down', [-1, 0, 0, -1], { turned: 180 }],
    ['a quarter to the left', [0, -1, 1, 0], { turned: 270 }],
    ['left for right', [-1, 0, 0, 1], { mirrored: true }],
    ['above for below', [1, 0, 0, -1], { mirrored: true, turned: 180 }],
    ['one of nothing', [0, 0, 0, 0], {}],
  ] as const)('%s', (_, by, wanted) => expect(placed(by)).toEqual({ wider: 1, ...wanted }))
  it('is said in words', () => {
    expect(placingText([1, 0, 0, 1])).toBe('as it is')
    expect(placingText([1, 0, 0, -1])).toBe('left for right, turned by 180° clockwise')
  })
  it('that makes wider says by how much, and maps follow each other', () => {
    expect(placed([2, 0, 0, 1]).wider).toBe(2)
    expect(afterwards([0, 1, -1, 0], [0, 1, -1, 0])).toEqual([-1, 0, -0, -1])
  })
})

describe('what players do to pictures', () => {
  it('is nothing where all that is asked changes nothing', () => {
    expect(asked(hd, { turned: 0, part: { width: 1920, height: 1080 }, shape: 1.78 })).toEqual({})
  })
  it.each([
    [sd, { part: { width: 702, height: 576 } }, [], 16 / 9, 'but for their edges (702×576 of each)'],
    [hd, { part: { width: 1920, height: 800 } }, ['only 1920×800 of each'], 2.4, ''],
    [hd, { turned: 90 }, ['turned by 90° clockwise'], 9 / 16, ''],
    [hd, { turned: 180, mirrored: true as const }, ['left for right', 'turned by 180° clockwise'], 16 / 9, ''],
    [hd, { shape: 4 / 3 }, ['1.33 times as wide as high'], 4 / 3, ''],
    [hd, { off: true as const }, ['not at all, since their track is switched off'], 16 / 9, ''],
    [hd, { twoViews: true as const }, ['as two views of one scene'], 16 / 9, ''],
    [hd, { around: true as const }, ['around the viewer'], 16 / 9, ''],
  ])('%o with %o', (of, what, texts, shape, edges) => {
    const v = { ...of, ...asked(of, what) }
    expect(presentationTexts(v)).toEqual(texts)
    expect(shownShape(v) / shape).toBeCloseTo(1, 1)
    expect(edgesText(v)).toBe(edges)
  })
})

it('of a copy is what goes with the pictures, and with their description from a MOV', () => {
  const of = { ...hd, presentation: { turned: 90, part: { width: 1440, height: 1080 }, twoViews: true as const } }
  const { turned: _, ...both } = of.presentation
  expect(presentationOfCopy(of, 'mov')).toEqual({ presentation: both })
  expect(presentationOfCopy(of, 'mxf')).toEqual({ presentation: { twoViews: true } })
  expect(presentationOfCopy({ presentation: { turned: 90 } }, 'mov')).toEqual({})
})

it('sound that is switched off is said by its tracks', () => {
  const off = { off: true } as const
  expect(silencedText([{}, {}])).toBe('')
  expect(silencedText([{}, off, off])).toBe('tracks 2 and 3 switched off')
  expect(silencedText([{}, off])).toBe('track 2 switched off')
  expect(silencedText([off])).toBe('1 track switched off')
})
