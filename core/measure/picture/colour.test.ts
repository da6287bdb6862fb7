import { expect, it } from 'vitest'
import { colour } from './colour'

it('says what is required as it says what there is', () => {
  const words = (equals: string) => colour.words!({ equals })
  expect(['1/1/1', '1/1/1 full', '9/18/9', '1/4/7', 'none', 'anything'].map(words)).toEqual([
    'BT.709',
    'BT.709, full range',
    'BT.2100 HLG',
    'H.273 1/4/7',
    'not described',
    'anything',
  ])
})

it('has other words for every other value', () => {
  const codes = [1, 5, 6, 9].flatMap((p) =>
    [1, 6, 13, 14, 16, 18].flatMap((t) => [1, 5, 6, 9].map((m) => `${p}/${t}/${m}`)),
  )
  const words = codes.map((equals) => colour.words!({ equals }))
  expect(new Set(words).size).toBe(codes.length)
})
