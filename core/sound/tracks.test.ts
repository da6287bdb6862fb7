import { expect, it } from 'vitest'
import type { AudioInfo } from '../media/media'
import { soundRate, surroundsIn, tracksTaken } from './tracks'

const track = (channels: number, more: Partial<AudioInfo> = {}): AudioInfo => ({
  ...{ codec: 'pcm', channels, sampleRate: 48_000, bitDepth: 24, samples: 1, layout: null, webCodec: null },
  ...more,
})

it('takes the tracks that a route takes from, counted one after the other', () => {
  const [a, b, c] = [track(2), track(1), track(6)]
  const taken = (...route: number[]) => tracksTaken([a, b, c], route)
  expect([taken(0), taken(2, -1), taken(8, 1), taken(), taken(-1), taken(9)]).toEqual([[a], [b], [a, c], [], [], []])
})
it('runs at the rate of most channels, of several the first', () => {
  const at = (...of: [channels: number, rate: number][]) =>
    soundRate(of.map(([channels, sampleRate]) => ({ channels, sampleRate })))
  expect([
    at([1, 44_100], [2, 48_000]),
    at([2, 44_100], [2, 48_000]),
    at([1, 96_000], [2, 48_000], [1, 96_000]),
  ]).toEqual([48_000, 44_100, 96_000])
  expect(at()).toBe(48_000)
})
it('knows mixes in surround by what tracks say, and tracks of six by their order', () => {
  const all = [2, 3, 4, 5, 6, 7]
  const front = { left: 2, right: 3, centre: 4, all }
  expect(surroundsIn([track(2), track(6)])).toEqual([front])
  expect(surroundsIn([track(2, { layout: 'L R' }), track(6, { layout: 'C L R Ls Rs LFE' })])).toEqual([
    { left: 3, right: 4, centre: 2, all },
  ])
  // a mix of several in one track is that mix alone
  const both = surroundsIn([track(8, { layout: 'L R C LFE Ls Rs Lt Rt' })])
  expect(both).toEqual([{ left: 0, right: 1, centre: 2, all: [0, 1, 2, 3, 4, 5] }])
  expect(surroundsIn([track(2), ...Array.from({ length: 6 }, () => track(1)), track(8)])).toEqual([])
})
