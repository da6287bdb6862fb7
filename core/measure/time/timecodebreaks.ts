import type { TimecodeFacts } from '../../media/timecodes'
import { plural } from '../../text'
import { formatTimecode } from '../../time/timecode'
import { said, type Evidence, type Measure } from '../measure'

/**
 * Frames at which a timecode of a file does not follow from the one before: of its timecode track, and of those that it
 * repeats with its frames.
 */
export const timecodeBreaks: Measure = {
  name: 'timecode-breaks',
  label: 'Breaks of timecode',
  group: 'time',
  counts: true,
  stage: 'written',
  ends: true,
  read({ timecodes: list, file }) {
    if (!list || !file) return null
    if (list.length === 0) return said(null, 'there is no timecode that can be followed')
    const breaks = list.reduce((n, t) => n + t.breaks, 0)
    return said(breaks, list.map((t) => words(t, file)).join('; '))
  },
}

function words({ where, frames, breaks, at, other }: TimecodeFacts, file: NonNullable<Evidence['file']>): string {
  const apart = other === null ? '' : `, and begins at ${other}`
  if (at === null) return `none ${where}${frames > 1 ? `, in ${plural(frames, 'frame')}` : ''}${apart}`
  return `${plural(breaks, 'break')} ${where}, first at ${formatTimecode(file.start + at, file)}${apart}`
}
