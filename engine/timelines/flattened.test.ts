import { expect, it } from 'vitest'
import type { MediaInfo, StartTimecode } from '../../core/media/media'
import { makeRate } from '../../core/time/rate'
import { flattenedTimeline } from './flattened'

const rate = makeRate(25)

/** A file of four seconds that counts so. */
function said(timecode: Partial<StartTimecode>) {
  const info = {
    ...{ problems: [], chapters: [], audio: [], bext: null, video: [{ rate, frames: 100 }] },
    timecode: { start: '10:00:00:00', startFrames: 900_000, rate, dropFrame: false, ...timecode },
  } as unknown as MediaInfo
  return flattenedTimeline(info, 'day/reel.mov', 'Reel', null).problems
}

it('says where the timecode of a file jumps, and how the timeline counts', () => {
  expect(said({})).toEqual([])
  expect(said({ jumps: [] })).toEqual([])
  const once = [{ at: 40, count: 5000 }]
  expect(said({ jumps: once })).toMatchObject([
    {
      code: 'timeline.timecode-jumps',
      message:
        'The timecode of this file jumps, from 10:00:01:14 to 00:03:20:00; the timeline counts on from its start.',
      where: 'day/reel.mov, frame 40',
    },
  ])
  const often = [...once, { at: 50, count: 5050 }, { at: 60, count: 5100 }]
  expect(said({ jumps: often })[0]!.message).toContain('00:03:20:00 and in 2 more places;')
})
