import { said, type Measure } from '../measure'

const words = (drop: boolean) => (drop ? 'drop-frame' : 'non-drop')

export const dropFrame: Measure = {
  name: 'drop-frame',
  label: 'Drop-frame',
  group: 'time',
  counts: true,
  read: ({ described: d }) => (d?.start ? said(d.start.dropFrame, words(d.start.dropFrame)) : null),
  words: (e) => ('equals' in e ? words(e.equals === true) : null),
}
