import type { Problem } from '../problem'
import { countedFrom } from '../time/midnight'
import type { Frames } from '../time/rate'
import { trimEvent, type Timeline } from './model'
import { plural } from '../text'

/** A flattened file a timeline is laid against. */
interface Flattened {
  readonly start: Frames
  readonly length: Frames
  readonly dropFrame: boolean
  readonly hasTimecode: boolean
}

/**
 * Lays a timeline against one flattened file of it: events and markers counted from the file's first frame, and what
 * does not fit in words.
 */
export function placeTimeline(
  t: Timeline,
  media: Flattened,
  fileName: string,
): { timeline: Timeline; problems: Problem[] } {
  const problems: Problem[] = []
  // without a timecode in the file, its first frame is where the list begins
  const start = media.hasTimecode ? media.start : t.start
  const dropFrame = media.hasTimecode ? media.dropFrame : t.dropFrame
  const nothing: Timeline = { ...t, start, dropFrame, length: media.length, tracks: [], events: [], markers: [] }
  if (t.events.length === 0 && t.markers.length === 0) return { timeline: nothing, problems }
  if (media.hasTimecode && t.dropFrame !== media.dropFrame) {
    problems.push({
      code: 'timeline.drop-frame',
      message:
        `The list counts ${t.dropFrame ? 'drop-frame' : 'non-drop'}, the media ` +
        `${media.dropFrame ? 'drop-frame' : 'non-drop'}.`,
      where: fileName,
      fix: 'Export the list again with the labels of the media.',
    })
  }
  const by = countedFrom(start, t.start, { rate: t.rate, dropFrame }, start + media.length) - start
  const first = by
  const last = by + t.length
  const whole = { in: 0, out: media.length }
  const events = t.events
    .map((e) => trimEvent({ ...e, record: { in: e.record.in + by, out: e.record.out + by } }, whole))
    .filter((e) => e !== null)
  const markers = t.markers.map((m) => ({ ...m, at: m.at + by })).filter((m) => m.at >= 0 && m.at < media.length)
  if (events.length === 0 && markers.length === 0) {
    problems.push({
      code: 'timeline.start',
      message: 'No event of the list lies within the media: their start timecodes do not match.',
      where: fileName,
      fix: 'Check that the list and the media belong together, or correct the start timecode.',
    })
    return { timeline: nothing, problems }
  }
  if (first < 0)
    problems.push({
      code: 'timeline.start',
      message: `The list begins ${plural(-first, 'frame')} before the media.`,
      where: fileName,
      fix: 'Check the start timecode of the media.',
    })
  if (last > media.length)
    problems.push({
      code: 'timeline.length',
      message: `The list ends ${plural(last - media.length, 'frame')} after the media.`,
      where: fileName,
      fix: 'The media may be an older version; link the current one.',
    })
  else if (last < media.length && t.events.length > 0)
    problems.push({
      code: 'timeline.length',
      message: `The media is ${plural(media.length - last, 'frame')} longer than the list.`,
      where: fileName,
      fix: 'The frames after the last event are kept as a shot without a name.',
    })
  return { timeline: { ...nothing, tracks: t.tracks, events, markers }, problems }
}
