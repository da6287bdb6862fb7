import { describe, expect, it } from 'vitest'
import { samePictures } from '../analysis/samepictures'
import { followPictures } from './followpictures'
import { printed, type Coding } from './printedcuts'
import { cut, recut, rightAndWrong, shot, type Shot } from './recuts'

const clean: Coding = { seed: 1, grain: 1 }

function followed(before: readonly Shot[], after: readonly Shot[], from: number, to: number) {
  const [older, newer] = [cut(before), cut(after)]
  const same = samePictures(printed(older, clean), printed(newer, { seed: 2, grain: 1 }))
  const regions = [{ id: 'r', name: 'Fog Bell', in: from, out: to, metadata: {} }]
  const [f] = followPictures(older, newer, { regions, markers: [] }, same)
  return [f!.range && [f!.range.in, f!.range.out], ...f!.doubts]
}
const [a, b, c, d] = ['Quay', 'Ferry', 'Gulls', 'Night'].map((reel) => shot(reel, 100, 2500)) as [
  Shot,
  Shot,
  Shot,
  Shot,
]

describe('a region follows its pictures', () => {
  it.each([
    ['that come later', [d, a, b, c], [200, 300]],
    ['that changed places with others', [b, c, a], [0, 100]],
    ['that were trimmed at the end', [a, shot('Ferry', 80, 2500), c], [100, 180]],
    ['that were trimmed at the head', [a, shot('Ferry', 80, 2520), c], [100, 180]],
    ['that grew', [a, shot('Ferry', 130, 2485), c], [100, 230]],
  ])('%s', (_, after, range) => expect(followed([a, b, c], after, 100, 200)).toEqual([range]))
  it('by its frame, where an end lies within a shot', () =>
    expect(followed([a, b, c], [d, a, shot('Ferry', 90, 2510), c], 150, 250)).toEqual([[240, 340]]))
  it('but not to another take of the same place', () =>
    expect(followed([a, b, c], [a, shot('Ferry', 100, 7500), c], 100, 200)).toEqual([
      null,
      'none of its shots is there any more',
    ]))
})

it('doubts everything where all shots are other takes of the same places', () => {
  const made = recut(11, 200)
  const others = made.older.events.map((e) => shot(e.reel, e.record.out - e.record.in, e.source!.in + 900_000))
  const newer = cut(others)
  const same = samePictures(printed(made.older, clean), printed(newer, { seed: 2, grain: 1 }))
  const list = followPictures(made.older, newer, { regions: made.regions, markers: [] }, same)
  expect(list.filter((f) => f.doubts.length === 0)).toEqual([])
})

describe('recuts of a season, by their pictures', () => {
  const judge = (seed: number, count: number, older: Coding, newer: Coding) => {
    const made = recut(seed, count)
    const same = samePictures(printed(made.older, older), printed(made.newer, newer))
    const list = followPictures(made.older, made.newer, { regions: made.regions, markers: [] }, same)
    return rightAndWrong(list, made.truth)
  }
  it.each([
    ['coded alike', { seed: 2, grain: 1 }],
    ['coded at a lower rate', { seed: 3, grain: 4 }],
    ['graded anew', { seed: 4, grain: 1, gain: 0.85, lift: 12 }],
    ['with a counter burnt in', { seed: 5, grain: 1, counter: true }],
  ])('%s: nearly all are right, and none is wrong without being doubted', (_, newer) => {
    expect(judge(7, 200, clean, newer)).toEqual({ share: expect.toSatisfy((s: number) => s >= 0.9), wrong: 0 })
  })
})
