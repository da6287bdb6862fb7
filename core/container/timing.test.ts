import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { AudioTrack } from '../media/media'
import { makeRate } from '../time/rate'
import { missingSound, placePackets } from './packets'
import { conform, countedFrom } from './timing'

describe('pictures of varying durations', () => {
  it('come to the standard rate nearest to theirs, each at its time', () => {
    // 30 000 ticks a second: 33 and 50 ms in turn, as a screen recording has them
    const times = [0, 1000, 2500, 3500, 5000, 6000]
    const { rate, shown } = conform(times, 7500, 30_000)
    expect(rate).toEqual(makeRate(24))
    expect([...shown]).toEqual([0, 1, 2, 3, 4, 5])
  })
  it('are held where one lasts long, and left out where two fall into one frame', () => {
    const { rate, shown } = conform([0, 40, 80, 81, 120, 320, 360], 400, 1000)
    expect(rate).toEqual(makeRate(24000, 1001))
    expect([...shown]).toEqual([0, 1, 3, 4, 4, 4, 4, 4, 5, 6])
  })
  it('never lie more than half a frame beside their time (property)', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 300 }), { minLength: 2, maxLength: 60 }), (steps) => {
        const times = [0]
        for (const s of steps) times.push(times.at(-1)! + s)
        const end = times.pop()!
        const { rate, shown } = conform(times, end, 1000)
        const frame = (1000 * rate.den) / rate.num
        shown.forEach((p, n) => {
          expect(times[p]!).toBeLessThanOrEqual((n + 0.5) * frame)
          expect(times[p + 1] ?? Infinity).toBeGreaterThan((n + 0.5) * frame)
        })
        expect(Math.abs(shown.length * frame - end)).toBeLessThanOrEqual(frame)
      }),
    )
  })
  it('of times that make no sense stay as many as they are', () => {
    expect([...conform([0, 1, 2], 1e15, 1).shown]).toEqual([0, 1, 2])
  })
})

describe('packets of sound', () => {
  it('follow each other, however the clock that wrote them wavers', () => {
    const clock = [0, 2951, 5772, 8723]
    const { pts, gaps } = placePackets(
      4,
      48_000,
      () => 2880,
      (i) => clock[i]!,
    )
    expect([[...pts], gaps]).toEqual([[0, 2880, 5760, 8640, 11_520], []])
  })
  it('leave a gap where sound is missing, which is said', () => {
    const { pts, gaps } = placePackets(
      3,
      48_000,
      () => 960,
      (i) => [0, 960, 48_000][i]!,
    )
    expect([[...pts], gaps]).toEqual([[0, 960, 48_000, 48_960], [{ at: 1920, samples: 46_080 }]])
    expect(missingSound(gaps, 48_000, 'x.mp4')).toMatchObject([
      { code: 'media.sound-missing', damage: true, message: expect.stringContaining('0.96 s at 0.04 s') as string },
    ])
    expect(missingSound([], 48_000, 'x.mp4')).toEqual([])
  })
})

describe('sound against pictures that begin at another time', () => {
  const track = { start: 312, info: { samples: 48_000, sampleRate: 48_000 } } as AudioTrack
  it.each([
    ['earlier: what is before is left out', 0, 0.5, { start: 24_312, info: { samples: 24_000 } }],
    ['later: it is silent until then', 0.5, 0, { start: 312, info: { samples: 72_000, lead: 24_000 } }],
    ['with them', 1, 1, { start: 312, info: { samples: 48_000 } }],
    ['over before', 0, 9, { start: 48_312, info: { samples: 0 } }],
  ])('%s', (_, sound, pictures, expected) => expect(countedFrom(track, sound, pictures)).toMatchObject(expected))
})
