import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { follow } from './follow'
import { goesByPictures } from './makers/version'
import { cut, recut, rightAndWrong, shot, type Shot } from './recuts'
import type { Marker, Region } from './region'

const region = (from: number, to: number): Region => ({ id: 'r', name: 'Fog Bell', in: from, out: to, metadata: {} })
const followed = (before: readonly Shot[], after: readonly Shot[], r: Region, markers: readonly Marker[] = []) => {
  const [f] = follow(cut(before), cut(after), { regions: [r], markers })
  return [f!.range && [f!.range.in, f!.range.out], ...f!.doubts]
}
const [a, b, c, d] = ['A', 'B', 'C', 'D'].map((reel) => shot(reel)) as [Shot, Shot, Shot, Shot]

describe('a region follows its shots', () => {
  it.each([
    ['that did not change', [a, b, c], [100, 200]],
    ['that come later', [d, a, b, c], [200, 300]],
    ['that changed places with others', [b, c, a], [0, 100]],
    ['that were trimmed at the end', [a, shot('B', 80), c], [100, 180]],
    ['that were trimmed at the head', [a, shot('B', 80, 1020), c], [100, 180]],
    ['that grew', [a, shot('B', 120, 990), c], [100, 220]],
  ])('%s', (_, after, range) => expect(followed([a, b, c], after, region(100, 200))).toEqual([range]))
  it('with what is new within it', () => expect(followed([a, b, c], [a, d, b, c], region(0, 200))).toEqual([[0, 300]]))
  it('though an inner one is gone', () => expect(followed([a, b, c], [a, c], region(0, 300))).toEqual([[0, 200]]))
  it('by its frame, where an end lies within a shot', () =>
    expect(followed([a, b, c], [d, a, shot('B', 90, 1010), c], region(50, 150))).toEqual([[150, 240]]))
  it('by its neighbours, where shots are used several times', () =>
    expect(followed([a, b, a, c], [d, a, b, a, c], region(200, 400))).toEqual([[300, 500]]))
})

it('a region of a list of sound alone follows its events', () => {
  const heard = (shots: readonly Shot[]) => {
    const { events, tracks, ...own } = cut(shots)
    return {
      ...own,
      tracks: [...tracks.map((x) => ({ ...x, kind: 'audio' as const })), { name: 'A9', kind: 'audio' as const }],
      events: events.map((e) => ({ ...e, kind: 'audio' as const })),
    }
  }
  const [older, newer] = [heard([a, b, c]), heard([d, a, b, c])]
  const [f] = follow(older, newer, { regions: [region(100, 200)], markers: [] })
  expect([f!.range, f!.doubts]).toEqual([{ in: 200, out: 300 }, []])
  expect([goesByPictures(older, newer), goesByPictures(cut([a]), cut([b]))]).toEqual([false, true])
})

describe('a person looks at it', () => {
  it.each([
    ['when its first shot is gone', [a, c], region(100, 300), [[100, 200], 'its first shot is gone']],
    ['when its last shot is gone', [a, b], region(100, 300), [[100, 200], 'its last shot is gone']],
    [
      'when something new stands beside it',
      [a, d, b, c],
      region(100, 300),
      [[200, 400], 'something new stands before it'],
    ],
    ['when its frame is gone', [a, shot('B', 20, 1080), c], region(150, 300), [[100, 220], 'its first frame is gone']],
    ['when its shots were torn apart', [a, c, b], region(0, 200), [[0, 300], 'shots from elsewhere lie within it']],
    [
      'when its shot was cut in two',
      [a, shot('B', 40), d, shot('B', 30, 1070), c],
      region(100, 200),
      [[100, 140], 'something new stands after it', 'its last frame is in another shot now'],
    ],
  ] as const)('%s', (_, after, r, expected) => expect(followed([a, b, c], after, r)).toEqual(expected))
})

describe('what cannot follow is told', () => {
  it('when none of its shots is left', () =>
    expect(followed([a, b, c], [a, c], region(100, 200))).toEqual([null, 'none of its shots is there any more']))
  it('when its ends changed places', () => expect(followed([a, b, c], [c, b, a], region(0, 300))[0]).toBeNull())
  it('and its chapters with it', () => {
    const markers = [10, 150].map((at, i) => ({ id: `m${i}`, at, name: `Chapter ${i}` }))
    const [f] = follow(cut([a, b]), cut([a, shot('B', 20, 1080)]), { regions: [region(0, 200)], markers })
    expect(f!.chapters).toEqual([{ at: 10, name: 'Chapter 0' }])
    expect(f!.doubts).toEqual(['a chapter could not follow'])
  })
})

describe('recuts of a season', () => {
  const judge = (seed: number, count: number) => {
    const { older, newer, regions, truth } = recut(seed, count)
    return rightAndWrong(follow(older, newer, { regions, markers: [] }), truth)
  }
  it('99 of 100 regions are right, and none is wrong without being doubted', () => {
    expect(judge(1, 4000)).toEqual({ share: expect.toSatisfy((s: number) => s >= 0.99), wrong: 0 })
  })
  it('none is wrong without being doubted, whatever the recut (property)', () =>
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e9 }), (seed) => void expect(judge(seed, 400).wrong).toBe(0)),
      { numRuns: 60 },
    ))
})
