import { said, type Measure } from '../measure'

const words = (drop: boolean) => (drop ? 'drop-frame' : 'non-drop')

export const dropFrame: Measure = {
  name: 'drop-frame',
  label: 'Drop-frame',
  group: 'time',
  counts: true,
  // a time reference of sound counts samples, and says nothing of frames
  read({ described: d }) {
    if (!d?.start?.rate) return null
    const { dropFrame: drops } = d.start
    return drops === null
      ? said(null, 'cannot be said by its format, nor told by its labels')
      : said(drops, words(drops))
  },
  words: (e) => ('equals' in e ? words(e.equals === true) : null),
}
