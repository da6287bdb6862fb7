import { isTimeline } from '../../../core/lineup/section'
import { placed, sectionAt } from '../../../core/lineup/lineup'
import { fileBase } from '../../../core/recipe/output'
import { sameRate, type Frames } from '../../../core/time/rate'
import { formatTimecode, labelParts, type TimeBase } from '../../../core/time/timecode'
import type { DeliverableStep } from '../context'

/** A label as it is read from any format: some do not say whether labels are dropped. */
const labelOf = (count: Frames, base: TimeBase) => labelParts(formatTimecode(count, base)).join(':')

/**
 * The recording that the timecode of a frame of a file is of: where its label is the one that its picture has in its
 * source. Empty where it is another, as that of a timeline most often is, and where no recording is named.
 */
export function reelAt({ item, source }: DeliverableStep, n: Frames): string {
  const { output, region } = item
  const section = sectionAt(placed(output), n)
  if (!isTimeline(section)) return ''
  const place = source.place(region.in + section.from + n - section.at)
  const base = fileBase(item)
  return place && sameRate(place.rate, base.rate) && labelOf(place.frames, place) === labelOf(base.start + n, base)
    ? place.reel
    : ''
}

/** The recording that the timecode of a whole file is of, from its first frame to its last. */
export function reelOf(step: DeliverableStep): string {
  const first = reelAt(step, 0)
  return first === reelAt(step, step.item.output.frames - 1) ? first : ''
}
