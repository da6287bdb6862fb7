import type { Piece, SamePictures } from '../analysis/samepictures'
import { normalSpeed, type Timeline, type TimelineEvent } from '../timeline/model'
import { follow, type Followed, type ShotDoubts } from './follow'
import type { Split } from './region'

/** A cut as the list of it would be whose sources are the pictures themselves. */
function listed(t: Timeline, pieces: readonly Piece[]): Timeline {
  const events = pieces.map(({ reel, from, in: start, out }): TimelineEvent => {
    const source = reel === null ? null : { in: from, out: from + out - start, rate: t.rate }
    return {
      ...{ track: 'V', kind: 'video', name: '', reel: `pictures ${reel ?? ''}`, file: null, transition: null },
      ...{ source, record: { in: start, out }, speed: normalSpeed },
    }
  })
  return { ...t, tracks: [{ name: 'V', kind: 'video' }], events, markers: [] }
}

/** Every region of an older version's split where its pictures are in a newer version, as with a list of each. */
export function followPictures(older: Timeline, newer: Timeline, split: Split, same: SamePictures): Followed[] {
  const places = (is: (p: Piece) => boolean | undefined) => new Set(same.newer.flatMap((p, i) => (is(p) ? [i] : [])))
  const doubts: ShotDoubts = { still: places((p) => p.still), unsure: places((p) => p.unsure) }
  return follow(listed(older, same.older), listed(newer, same.newer), split, doubts)
}
