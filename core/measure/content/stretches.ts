import type { FrameRange } from '../../time/range'
import { formatTimecode, lengthText } from '../../time/timecode'
import { placed, said, type Evidence, type Measure } from '../measure'

/** How many stretches there are, and where the first is. */
export function stretchesText(list: readonly FrameRange[], base: NonNullable<Evidence['base']>): string {
  const first = list[0]
  if (!first) return 'none'
  const at = formatTimecode(base.start + first.in, base)
  const several = list.length > 1 ? `${list.length} stretches, first: ` : ''
  return `${several}${lengthText(first.out - first.in, base.rate)} at ${at}`
}

const read = (list: readonly FrameRange[] | undefined, base: Evidence['base']) =>
  list && base ? { ...said(list.length, stretchesText(list, base)), ...placed(list, base) } : null

/** A measure that counts stretches of a content. */
export function ofStretches(
  name: string,
  label: string,
  of: (p: NonNullable<Evidence['pictures']>) => readonly FrameRange[] | undefined,
): Measure {
  const asked: Measure['read'] = ({ pictures, base }) => (pictures ? read(of(pictures), base) : null)
  const places: Measure['places'] = ({ pictures }) => (pictures && of(pictures)) ?? []
  return { name, label, group: 'content', counts: true, seen: true, read: asked, places }
}
