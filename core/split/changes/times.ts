import type { Frames } from '../../time/rate'
import type { Region } from '../region'
import { choice, secondsOf } from '../settings'
import { regionChange } from './change'

/** A region with other ends, within [0, length) and at least a frame long. */
function within(r: Region, from: Frames, to: Frames, length: Frames): Region {
  const start = Math.max(0, Math.min(from, length - 1))
  return { ...r, in: start, out: Math.max(start + 1, Math.min(to, length)) }
}

const earlierOrLater = choice('Which way', [
  ['later', 'later'],
  ['earlier', 'earlier'],
])
const by = { kind: 'length', label: 'By', initial: () => 1, least: 0 } as const

/** Whole regions earlier or later: what they hold is other frames, their lengths stay. */
export const move = regionChange({
  name: 'move',
  label: 'move',
  hint: 'Moves whole regions; their lengths stay, and none leaves the timeline.',
  settings: { way: earlierOrLater, by },
  apply(regions, { way, by: frames }, { timeline: { length } }) {
    return regions.map((r) => {
      const wanted = way === 'later' ? frames : -frames
      const step = Math.max(-r.in, Math.min(length - r.out, wanted))
      return { ...r, in: r.in + step, out: r.out + step }
    })
  },
})

/** One end of regions, earlier or later. */
export const trim = regionChange({
  name: 'trim',
  label: 'trim',
  hint: 'Moves one end, or both away from each other or together.',
  settings: {
    end: choice('Which end', [
      ['in', 'the first frame'],
      ['out', 'the last frame'],
    ]),
    way: earlierOrLater,
    by,
  },
  apply(regions, { end, way, by: frames }, { timeline: { length } }) {
    const step = way === 'later' ? frames : -frames
    return regions.map((r) =>
      end === 'in'
        ? within(r, Math.min(r.in + step, r.out - 1), r.out, length)
        : within(r, r.in, Math.max(r.out + step, r.in + 1), length),
    )
  },
})

/** The frames between a region and the next. */
export const gaps = regionChange({
  name: 'gaps',
  label: 'open or close gaps',
  hint: 'Ends each region so many frames before the next begins; with none they touch.',
  settings: {
    frames: { kind: 'length', label: 'Frames between', initial: () => 0, least: 0 },
    reach: { kind: 'length', label: 'Leave gaps wider than', initial: secondsOf(10), least: 0 },
  },
  apply(regions, { frames, reach }, { all, timeline: { length } }) {
    return regions.map((r) => {
      const next = all.find((x) => x.in > r.in && x.id !== r.id)
      if (!next || next.in - r.out > reach || next.out <= r.out) return r
      return within(r, r.in, Math.max(r.in + 1, next.in - frames), length)
    })
  },
})
