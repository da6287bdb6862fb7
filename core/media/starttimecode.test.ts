import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { makeRate } from '../time/rate'
import type { TimecodeJump } from './media'
import { countAt, foundJumps, jumpsIn, stretchesOf } from './starttimecode'

const base = { start: '10:00:00:00', startFrames: 900_000, rate: makeRate(25), dropFrame: false }
const jumps = [
  { at: 40, count: 900_050 },
  { at: 60, count: 10 },
]

describe('a timecode that jumps', () => {
  it('counts on from its last jump', () => {
    expect([0, 39, 40, 59, 60, 99].map((n) => countAt({ ...base, jumps }, n))).toEqual([
      900_000, 900_039, 900_050, 900_069, 10, 49,
    ])
    expect(countAt(base, 99)).toBe(900_099)
  })

  it('goes in stretches, of which those behind the end of the file are none', () => {
    expect(stretchesOf({ ...base, jumps }, 100)).toEqual([
      { at: 0, count: 900_000, frames: 40 },
      { at: 40, count: 900_050, frames: 20 },
      { at: 60, count: 10, frames: 40 },
    ])
    expect(stretchesOf({ ...base, jumps }, 60).map((s) => s.frames)).toEqual([40, 20])
    expect(stretchesOf(base, 5)).toEqual([{ at: 0, count: 900_000, frames: 5 }])
  })

  it('is told from counts that lie apart', () =>
    expect(jumpsIn([{ at: 0, count: 5 }, { at: 10, count: 15 }, ...jumps, { at: 70, count: 20 }], base)).toEqual(jumps))

  it('is none where it goes on over midnight', async () => {
    const day = 86_400 * 25
    expect(
      jumpsIn(
        [
          { at: 0, count: day - 10 },
          { at: 10, count: 0 },
          { at: 20, count: 11 },
        ],
        base,
      ),
    ).toEqual([{ at: 20, count: 11 }])
    expect(await foundJumps(40, base, (n) => Promise.resolve((day - 10 + n) % day))).toEqual([])
  })

  it('is found by halving, wherever it jumps forward', async () => {
    const run = fc.array(
      fc.record({ after: fc.integer({ min: 1, max: 500 }), by: fc.integer({ min: 1, max: 9000 }) }),
      {
        maxLength: 6,
      },
    )
    await fc.assert(
      fc.asyncProperty(run, async (list) => {
        const made: TimecodeJump[] = []
        for (const { after, by } of list) {
          const last = made.at(-1) ?? { at: 0, count: 100 }
          made.push({ at: last.at + after, count: last.count + after + by })
        }
        const frames = (made.at(-1)?.at ?? 0) + 300
        const timecode = { ...base, startFrames: 100, jumps: made }
        let reads = 0
        const countOf = (n: number) => {
          reads++
          return Promise.resolve(countAt(timecode, n))
        }
        expect(await foundJumps(frames, base, countOf)).toEqual(made)
        expect(reads).toBeLessThanOrEqual(2 + 12 * made.length)
      }),
    )
  })

  it('is not followed where a frame says none', async () => {
    expect(await foundJumps(10, base, (n) => Promise.resolve(n === 9 ? null : n))).toBeNull()
    const jumping = (n: number) => Promise.resolve(n === 5 ? null : n > 5 ? n + 100 : n)
    expect(await foundJumps(11, base, jumping)).toBeNull()
  })
})
