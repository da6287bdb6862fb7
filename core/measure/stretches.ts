import type { FrameRange } from '../time/range'
import { formatTimecode, lengthText } from '../time/timecode'
import { said, type Evidence, type Measure } from './measure'

/** How many stretches there are, and where the first is. */
function read(list: readonly FrameRange[] | undefined, base: Evidence['base']) {
  if (!list || !base) return null
  const first = list[0]
  if (!first) return said(0, 'none')
  const at = formatTimecode(base.start + first.in, base)
  const several = list.length > 1 ? `${list.length} stretches, first: ` : ''
  return said(list.length, `${several}${lengthText(first.out - first.in, base.rate)} at ${at}`)
}

/** A measure that counts stretches of a content. */
export function ofStretches(
  name: string,
  label: string,
  of: (p: NonNullable<Evidence['pictures']>) => readonly FrameRange[] | undefined,
): Measure {
  const asked: Measure['read'] = ({ pictures, base }) => (pictures ? read(of(pictures), base) : null)
  const places: Measure['places'] = ({ pictures }) => (pictures && of(pictures)) ?? []
  return { name, label, group: 'content', counts: true, read: asked, places }
}
