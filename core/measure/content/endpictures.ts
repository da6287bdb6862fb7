import { plural } from '../../text'
import { said, type EndPicture, type Expectation, type Measure } from '../measure'

/** How far an end of the file is from the timeline's own picture, both seen small; 255 when it is another frame's. */
function read(end: EndPicture | undefined) {
  if (!end) return null
  if (end.copied) return said(end.difference, 'the source’s own, byte by byte')
  if (end.shift !== 0) return said(255, `shifted by ${plural(Math.abs(end.shift), 'frame')}`)
  return said(end.difference, `${end.difference.toFixed(2)} off the timeline’s own`)
}

const words = (e: Expectation) => `the timeline’s own${'max' in e ? `, at most ${e.max} off` : ''}`

const shared = { group: 'content', stage: 'written', ends: true, words } as const

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
