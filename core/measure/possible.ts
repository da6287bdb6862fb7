import { said, type Measure } from './measure'

/** Whether this machine can make the file at all; else why not, and what to do. */
export const possible: Measure = {
  name: 'possible',
  label: 'Can be made here',
  group: 'structure',
  counts: true,
  stage: 'before',
  read({ obstacles }) {
    if (!obstacles) return null
    const why = obstacles.map(({ message, fix }) => (fix ? `${message} ${fix}` : message))
    return why.length === 0 ? said(true, 'yes') : said(false, `no. ${why.join(' ')}`)
  },
  words: () => 'yes',
}
