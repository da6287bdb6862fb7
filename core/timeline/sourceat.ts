import { canDropFrame, type TimeBase } from '../time/timecode'
import { sameRate, type Frames } from '../time/rate'
import { lastAtOrBefore } from '../time/order'
import type { StartTimecode } from '../media/media'
import { sourceFrame, topEvents, type Timeline, type TimelineEvent } from './model'

/** Where the picture of a frame of a timeline was taken from. */
export interface SourcePlace extends TimeBase {
  /** As the source's own timecode counts them. */
  readonly frames: Frames
  /** Empty where none is said. */
  readonly reel: string
}

/** Timelines have thousands of events, and regions as many first frames. */
const tops = new WeakMap<Timeline, { readonly events: readonly TimelineEvent[]; readonly begins: readonly Frames[] }>()

function eventAt(t: Timeline, frame: Frames): TimelineEvent | null {
  let top = tops.get(t)
  if (!top) {
    const events = topEvents(t)
    top = { events, begins: events.map((e) => e.record.in) }
    tops.set(t, top)
  }
  const e = top.events[lastAtOrBefore(top.begins, frame)]
  return e && frame < e.record.out ? e : null
}

/** A file that is a timeline by itself. */
interface OwnFile {
  /** Of its event, where no list says others. */
  readonly path: string
  readonly timecode: StartTimecode | null
}

/**
 * The place in its source of a frame that is seen: as the list says; of a file without a list, as its own timecode
 * says. Null where there is black or nothing, and where neither says anything.
 */
export function sourceAt(t: Timeline, frame: Frames, own: OwnFile | null): SourcePlace | null {
  const e = eventAt(t, frame)
  if (!e?.source) return null
  if (own && e.file === own.path) {
    const { timecode: tc } = own
    if (!tc || !sameRate(tc.rate, t.rate)) return null
    return { frames: tc.startFrames + frame, rate: tc.rate, dropFrame: tc.dropFrame, reel: tc.reel ?? '' }
  }
  const { rate, dropFrame = t.dropFrame } = e.source
  const frames = sourceFrame(e.source, e.speed, frame - e.record.in)
  return { frames, rate, dropFrame: dropFrame && canDropFrame(rate), reel: e.reel }
}
