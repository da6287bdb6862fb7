import type { FrameRange } from '../time/range'
import type { Frames, Rate } from '../time/rate'
import type { TimeBase } from '../time/timecode'

/** One edit. `record` counts frames from the start of the timeline. */
export interface TimelineEvent {
  readonly track: string
  readonly kind: 'video' | 'audio'
  readonly name: string
  readonly reel: string
  readonly source: { readonly in: Frames, readonly out: Frames, readonly rate: Rate } | null
  readonly record: FrameRange
  readonly transition: { readonly kind: 'dissolve' | 'wipe', readonly frames: Frames } | null
}

/** An edited timeline: all positions are frames from its start; `start` is the label of its first frame. */
export interface Timeline {
  readonly name: string
  readonly rate: Rate
  readonly dropFrame: boolean
  readonly start: Frames
  readonly length: Frames
  readonly events: readonly TimelineEvent[]
}

export function timeBase(t: Pick<Timeline, 'rate' | 'dropFrame'>): TimeBase {
  return { rate: t.rate, dropFrame: t.dropFrame }
}

/** A shot: what lies between two cuts of the pictures. */
export interface Shot extends FrameRange {
  readonly name: string
  readonly reel: string
}

/** The shots of a timeline in order, gaps included as shots without a name, so that they cover it whole. */
export function shotsOf(t: Timeline): Shot[] {
  const events = t.events.filter(e => e.kind === 'video').sort((a, b) => a.record.in - b.record.in)
  const shots: Shot[] = []
  let at = 0
  for (const e of events) {
    const from = Math.max(at, e.record.in)
    const to = Math.min(t.length, e.record.out)
    if (from > at) shots.push({ in: at, out: Math.min(from, t.length), name: '', reel: '' })
    if (to > from) shots.push({ in: from, out: to, name: e.name, reel: e.reel })
    at = Math.max(at, to)
  }
  if (at < t.length) shots.push({ in: at, out: t.length, name: '', reel: '' })
  return shots
}

/** The frames at which pictures change, from 0 to the timeline's end. */
export function cutsOf(shots: readonly Shot[]): Frames[] {
  return shots.length ? [...shots.map(s => s.in), shots.at(-1)!.out] : []
}

/** Index of the last of `sorted` that is at or before `at`; −1 when all lie after. */
export function lastAtOrBefore(sorted: readonly Frames[], at: Frames): number {
  let low = 0
  let high = sorted.length - 1
  while (low <= high) {
    const mid = (low + high) >> 1
    if (sorted[mid]! <= at) low = mid + 1
    else high = mid - 1
  }
  return high
}
