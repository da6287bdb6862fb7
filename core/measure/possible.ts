import { said, type Measure } from './measure'

/** Whether this machine can make the file at all. */
export const possible: Measure = {
  name: 'possible',
  label: 'Can be made here',
  group: 'structure',
  counts: true,
  stage: 'before',
  read({ obstacles }) {
    if (!obstacles) return null
    return obstacles.length === 0 ? said(true, 'yes') : said(false, `no. ${obstacles.map((p) => p.message).join(' ')}`)
  },
  words: () => 'yes',
}
