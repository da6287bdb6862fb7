import { sameLabel } from '../time/midnight'
import type { Frames } from '../time/rate'
import { canDropFrame, formatTimecode, parseTimecode, type TimeBase } from '../time/timecode'
import type { StartTimecode, TimecodeJump } from './media'

// How the timecode of a file counts: on from its start, and anew wherever it jumps.

/** Frames of a file that count on from each other. */
export interface Stretch {
  /** The first of them. */
  readonly at: Frames
  /** What the timecode counts for it. */
  readonly count: Frames
  readonly frames: Frames
}

/** Whether labels of so many frames from `start` on tell if labels are dropped: they follow one way alone. */
export function tellsDropping(start: Frames, frames: Frames, base: TimeBase): boolean {
  if (!canDropFrame(base.rate)) return true
  const other = { ...base, dropFrame: !base.dropFrame }
  const [first, last] = [start, start + frames - 1].map((n) => parseTimecode(formatTimecode(n, base), other))
  return first == null || last == null || !sameLabel(last - first, frames - 1, other)
}

/** A timecode that does not tell whether labels are dropped, as it is where they are; any other as it stands. */
export function dropping(t: StartTimecode, dropFrame: boolean): StartTimecode {
  if (!t.dropUntold || dropFrame === t.dropFrame) return t
  const base = { rate: t.rate, dropFrame }
  const recounted = (count: Frames) => parseTimecode(formatTimecode(count, t), base) ?? count
  const startFrames = recounted(t.startFrames)
  return {
    ...{ ...t, ...base, startFrames, start: formatTimecode(startFrames, base) },
    ...(t.jumps ? { jumps: t.jumps.map(({ at, count }) => ({ at, count: recounted(count) })) } : {}),
  }
}

/** What a timecode counts for a frame of its file. */
export function countAt({ startFrames, jumps = [] }: StartTimecode, frame: Frames): Frames {
  const jump = jumps.findLast((j) => j.at <= frame) ?? { at: 0, count: startFrames }
  return jump.count + frame - jump.at
}

/** The stretches of a file of so many frames, in order. */
export function stretchesOf({ startFrames, jumps = [] }: StartTimecode, frames: Frames): Stretch[] {
  const begins = [{ at: 0, count: startFrames }, ...jumps].filter((b) => b.at < frames)
  return begins.map((b, i) => ({ ...b, frames: (begins[i + 1]?.at ?? frames) - b.at }))
}

/** The most jumps that are kept of a file: one that has more follows nothing. */
const most = 1000

/** Where counts of frames do not follow from each other; each is given with its frame, in order. */
export function jumpsIn(counts: readonly TimecodeJump[], base: TimeBase): TimecodeJump[] {
  return counts.filter((c, i) => i > 0 && !follows(counts[i - 1]!, c, base)).slice(0, most)
}

/** Whether one count goes on from another, midnight between them or not. */
const follows = (a: TimecodeJump, b: TimecodeJump, base: TimeBase): boolean =>
  sameLabel(b.count - a.count, b.at - a.at, base)

/**
 * Where the count of a file of so many frames jumps, found by halving: two frames that are as far apart as they count
 * have no jump between them, as far as this tells. Null where a frame has no count.
 */
export async function foundJumps(
  frames: Frames,
  base: TimeBase,
  countOf: (frame: Frames) => Promise<Frames | null>,
): Promise<TimecodeJump[] | null> {
  const out: TimecodeJump[] = []
  const between = async (a: TimecodeJump, b: TimecodeJump): Promise<boolean> => {
    if (follows(a, b, base) || out.length >= most) return true
    if (b.at - a.at === 1) {
      out.push(b)
      return true
    }
    const middle = await counted(a.at + Math.floor((b.at - a.at) / 2))
    return middle !== null && (await between(a, middle)) && (await between(middle, b))
  }
  const counted = async (at: Frames): Promise<TimecodeJump | null> => {
    const count = await countOf(at)
    return count === null ? null : { at, count }
  }
  const [first, last] = [await counted(0), await counted(frames - 1)]
  return first && last && (await between(first, last)) ? out : null
}
