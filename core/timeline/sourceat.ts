import { canDropFrame, type TimeBase } from '../time/timecode'
import { sameRate, type Frames } from '../time/rate'
import { lastAtOrBefore } from '../time/order'
import type { StartTimecode } from '../media/media'
import { countAt, dropping } from '../media/starttimecode'
import { sourceFrame, topEvents, type Timeline, type TimelineEvent } from './model'

/** Where the picture of a frame of a timeline was taken from. */
export interface SourcePlace extends TimeBase {
  /** As the source's own timecode counts them. */
  readonly frames: Frames
  /** Empty where none is said. */
  readonly reel: string
}

/** The clock of the file that an event is taken from. */
export interface FileClock {
  readonly timecode: StartTimecode | null
  /** What the event's source counts at the file's first frame. */
  readonly offset: Frames
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

/** The event of a timeline that one is, or is what is left of where others lie over it; −1 where there is none. */
function wholeOf(t: Timeline, e: TimelineEvent): number {
  const at = t.events.indexOf(e)
  if (at >= 0) return at
  return t.events.findIndex(
    (x) =>
      x.track === e.track &&
      x.kind === e.kind &&
      x.record.in <= e.record.in &&
      x.record.out >= e.record.out &&
      x.source !== null &&
      sourceFrame(x.source, x.speed, e.record.in - x.record.in) === sourceFrame(e.source!, e.speed, 0),
  )
}

/** What a timecode counts for a frame of its file; `reel` where it names none. */
const placeBy = (timecode: StartTimecode, frame: Frames, reel: string): SourcePlace => ({
  ...{ frames: countAt(timecode, frame), rate: timecode.rate, dropFrame: timecode.dropFrame },
  reel: timecode.reel ?? reel,
})

/**
 * The place in its source of a frame that is seen: by the timecode of the file that its event is taken from, where it
 * has one at the rate that the event counts; else as the list says. Null where there is black or nothing. `clockOf`
 * gives the clock of the file of an event by its position; null where there is none.
 */
export function sourceAt(t: Timeline, frame: Frames, clockOf: (event: number) => FileClock | null): SourcePlace | null {
  const e = eventAt(t, frame)
  if (!e?.source) return null
  const { rate, dropFrame = t.dropFrame } = e.source
  const drops = dropFrame && canDropFrame(rate)
  const frames = sourceFrame(e.source, e.speed, frame - e.record.in)
  const clock = clockOf(wholeOf(t, e))
  const tc = clock?.timecode
  if (tc && !tc.numbered && sameRate(tc.rate, rate)) return placeBy(dropping(tc, drops), frames - clock.offset, e.reel)
  return { frames, rate, dropFrame: drops, reel: e.reel }
}

/** The same of a file that is a timeline by itself; its event, where no list says others, is of its own path. */
export function sourceInFile(
  t: Timeline,
  frame: Frames,
  { path, timecode }: { readonly path: string; readonly timecode: StartTimecode | null },
): SourcePlace | null {
  const e = eventAt(t, frame)
  if (e?.file !== path) return sourceAt(t, frame, () => null)
  if (!timecode || timecode.numbered || !sameRate(timecode.rate, t.rate)) return null
  return placeBy(dropping(timecode, t.dropFrame), frame, '')
}
