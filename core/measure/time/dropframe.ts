import { said, type Measure } from '../measure'

const words = (drop: boolean) => (drop ? 'drop-frame' : 'non-drop')

export const dropFrame: Measure = {
  name: 'drop-frame',
  label: 'Drop-frame',
  group: 'time',
  counts: true,
  // a time reference of sound counts samples, and says nothing of frames
  read: ({ described: d }) => (d?.start?.rate ? said(d.start.dropFrame, words(d.start.dropFrame)) : null),
  words: (e) => ('equals' in e ? words(e.equals === true) : null),
}
