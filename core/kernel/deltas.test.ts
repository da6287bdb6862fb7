import fc from 'fast-check'
import { expect, it } from 'vitest'
import { fromDeltas, fromDeltasPlain, toDeltas, toDeltasPlain } from './deltas'

it('takes bytes apart and puts them together by the kernel as plainly, of any length', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => {
      const deltas = toDeltas(bytes)
      expect(deltas).toEqual(toDeltasPlain(bytes))
      expect(fromDeltas(deltas)).toEqual(bytes)
      expect(fromDeltas(bytes)).toEqual(fromDeltasPlain(bytes))
    }),
  )
})

it('gives the even bytes before the odd ones, each from the one before', () => {
  expect([...toDeltas(Uint8Array.of(10, 90, 12, 80, 11))]).toEqual([10, 130, 127, 207, 118])
})
