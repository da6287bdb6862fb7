import { expect, it } from 'vitest'
import type { Evidence } from '../measure'
import { intra } from './intra'

const read = (container: boolean | undefined, leaning?: number | null) => {
  const described = { video: { intra: container } } as unknown as Evidence['described']
  return intra.read({ described, ...(leaning === undefined ? {} : { coded: { captions: null, leaning } }) })
}

it('is what the pictures say where they do, whatever their container says', () => {
  expect([read(true)?.value, read(false)?.value, read(undefined)]).toEqual([true, false, null])
  expect([read(true, null)?.value, read(false, 0)?.value, read(true, 0)?.value]).toEqual([true, true, true])
  expect(read(true, 3)).toEqual({
    value: false,
    text: '3 pictures lean on others, though the container says that none does',
  })
  expect(read(false, 3)).toEqual({ value: false, text: 'in groups that lean on each other' })
})
