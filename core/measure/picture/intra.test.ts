import { expect, it } from 'vitest'
import type { Evidence } from '../measure'
import { intra } from './intra'

const read = (container: boolean | undefined, frames?: number, untold = 0) => {
  const described = { video: { intra: container } } as unknown as Evidence['described']
  const leaning = frames === undefined ? null : { frames, untold }
  return intra.read({ described, coded: { captions: null, leaning } })
}

it('is what the pictures say where they do, whatever their container says', () => {
  expect([read(true)?.value, read(false)?.value, read(undefined)]).toEqual([true, false, null])
  expect([read(false, 0)?.value, read(true, 0)?.value]).toEqual([true, true])
  expect(read(true, 1)).toEqual({
    value: false,
    text: 'not by themselves: 1 picture, though the container says each is',
  })
  expect(read(false, 3)).toEqual({ value: false, text: 'in groups that lean on each other' })
})

it('is not measured where pictures do not say, but for what others say', () => {
  expect(read(true, 0, 2)).toEqual({ value: null, text: 'not told by 2 pictures' })
  expect(read(true, 1, 2)?.value).toBe(false)
})
