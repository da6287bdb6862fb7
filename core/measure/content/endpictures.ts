import { plural } from '../../text'
import { said, type EndPicture, type Measure } from '../measure'

/** Mean luma difference of an end of the file to the timeline's own picture; 255 when it is another frame's. */
function read(end: EndPicture | undefined) {
  if (!end) return null
  if (end.copied) return said(end.difference, 'the source’s own, byte by byte')
  if (end.shift !== 0) return said(255, `shifted by ${plural(Math.abs(end.shift), 'frame')}`)
  return said(end.difference, `the timeline’s own (difference ${end.difference.toFixed(2)})`)
}

const shared = { group: 'content', stage: 'written', ends: true, words: () => 'the timeline’s own' } as const

export const firstPicture: Measure = {
  ...shared,
  name: 'first-picture',
  label: 'First picture',
  read: ({ ends }) => read(ends?.first),
}

export const lastPicture: Measure = {
  ...shared,
  name: 'last-picture',
  label: 'Last picture',
  read: ({ ends }) => read(ends?.last),
}
