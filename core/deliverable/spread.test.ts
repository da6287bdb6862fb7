import fc from 'fast-check'
import { expect, it } from 'vitest'
import { makeRate } from '../time/rate'
import { spreadFrames } from './spread'

it('takes the ends, both sides of joints, and one a second in turns from its first frames', () => {
  const found = [0, 26, 52, 78, 99, 100, 126, 152, 178, 199, 200, 226, 249]
  expect(spreadFrames(250, makeRate(25), [0, 100, 200], 1)).toEqual(found)
})

it('stays inside, in order, and leaves no gap over the time asked', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 2000 }),
      fc.constantFrom(1, 10),
      fc.integer({ min: 1, max: 400 }),
      (frames, seconds, joint) => {
        const rate = makeRate(30000, 1001)
        const found = spreadFrames(frames, rate, [0, joint], seconds)
        expect([found[0], found.at(-1)]).toEqual([0, frames - 1])
        if (joint < frames) expect(found).toEqual(expect.arrayContaining([joint - 1, joint]))
        for (let i = 1; i < found.length; i++) {
          expect(found[i]! - found[i - 1]!).toBeGreaterThan(0)
          expect(found[i]! - found[i - 1]!).toBeLessThanOrEqual(30 * seconds + 3)
        }
      },
    ),
  )
})
