import type { Frames } from './rate'
import { framesPerDay, type TimeBase } from './timecode'

// Labels wrap at midnight (SMPTE ST 12-1), and what is counted by them goes on.

/**
 * What a label counts that is read as `count`, where counting begins at `start`: one that lies before it is of the next
 * day where that is within `end` (not included, half a day later if absent).
 */
export function countedFrom(
  start: Frames,
  count: Frames,
  base: TimeBase,
  end: Frames = start + framesPerDay(base) / 2,
): Frames {
  const later = count + framesPerDay(base)
  return count < start && later <= end ? later : count
}

/** A count as its label has it: of the day that it falls in. */
export function ofDay(count: Frames, base: TimeBase): Frames {
  const day = framesPerDay(base)
  return ((count % day) + day) % day
}

/** Whether two counts have the same label. */
export const sameLabel = (a: Frames, b: Frames, base: TimeBase): boolean => ofDay(a - b, base) === 0
