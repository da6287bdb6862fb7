import { overlaps, uncovered, type FrameRange } from '../time/range'
import { trimEvent, type TimelineEvent } from './model'

type Placed = Pick<TimelineEvent, 'track' | 'kind' | 'record'>

/** Whether `a` is the later of two events of a track: it starts later, or stands later in the list. */
const later = (a: Placed, ia: number, b: Placed, ib: number) =>
  a.record.in > b.record.in || (a.record.in === b.record.in && ia > ib)

/** Indexes of the events of each track, in the order they start. */
function byTrack(events: readonly Placed[]): number[][] {
  const tracks = new Map<string, number[]>()
  events.forEach((e, i) => {
    const key = `${e.kind}/${e.track}`
    const own = tracks.get(key)
    if (own) own.push(i)
    else tracks.set(key, [i])
  })
  for (const list of tracks.values()) list.sort((a, b) => events[a]!.record.in - events[b]!.record.in || a - b)
  return [...tracks.values()]
}

/** Events that begin while another of their track still goes on. */
export function overlapping<T extends Placed>(events: readonly T[]): T[] {
  return byTrack(events).flatMap((list) => {
    let end = -Infinity
    return list.flatMap((i) => {
      const e = events[i]!
      const over = e.record.in < end
      end = Math.max(end, e.record.out)
      return over ? [e] : []
    })
  })
}

/**
 * What of an event is seen or heard on its own track: all of it, less what later events of the track lie over. The
 * later event wins; after it, the rest of the earlier one shows again.
 */
export function shownOf(events: readonly Placed[], index: number): FrameRange[] {
  const e = events[index]!
  const over = events
    .filter((x, i) => i !== index && x.kind === e.kind && x.track === e.track)
    .filter((x) => overlaps(x.record, e.record) && later(x, events.indexOf(x), e, index))
    .map((x) => x.record)
  return over.length ? uncovered(e.record, over) : [e.record]
}

/** The same with nothing lying over anything: events cut to what is shown of them, and how many were. */
export function withoutOverlaps(events: readonly TimelineEvent[]): { events: readonly TimelineEvent[]; cut: number } {
  if (overlapping(events).length === 0) return { events, cut: 0 }
  let cut = 0
  const out = events.flatMap((e, i) => {
    const shown = shownOf(events, i)
    const [first] = shown
    if (shown.length === 1 && first!.in === e.record.in && first!.out === e.record.out) return [e]
    cut++
    return shown.flatMap((range) => trimEvent(e, range) ?? [])
  })
  return { events: out, cut }
}
