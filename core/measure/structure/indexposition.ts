import { said, type Measure } from '../measure'
import { inWordsOf } from '../words'

const words = { front: 'front', end: 'end', fragments: 'in fragments' }

/** Whether the index stands before the essence, so that a file can be played while it is fetched. */
export const indexPosition: Measure = {
  name: 'index-position',
  label: 'Index position',
  group: 'structure',
  read: ({ described: d }) => (d ? said(d.indexAt, words[d.indexAt]) : null),
  ...inWordsOf(words),
}
