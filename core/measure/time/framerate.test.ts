import { expect, it } from 'vitest'
import { makeRate } from '../../time/rate'
import { frameRate } from './framerate'

const read = (num: number, den: number) =>
  frameRate.read({ described: { video: { rate: makeRate(num, den) } } as never })

it('says a rate as its field does, and one that only looks like it with its fraction', () => {
  expect([read(25, 1), read(30000, 1001), read(2997, 100)]).toEqual([
    { value: '25/1', text: '25' },
    { value: '30000/1001', text: '29.97' },
    { value: '2997/100', text: '29.97 (2997/100)' },
  ])
})

it('says what is required alike', () => {
  const words = (equals: string) => frameRate.words!({ equals })
  expect(['25/1', '30000/1001', '30', 'variable'].map(words)).toEqual(['25', '29.97', '30', 'variable'])
  expect(frameRate.words!({ oneOf: ['25/1', '50/1'] })).toBe('25 or 50')
})
