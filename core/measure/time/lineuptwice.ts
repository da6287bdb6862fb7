import { said, type Measure } from '../measure'

/** Whether line-up is made in front of a region that begins with line-up of its own. */
export const lineUpTwice: Measure = {
  name: 'line-up-twice',
  label: 'Line-up made',
  group: 'time',
  counts: true,
  stage: 'before',
  ends: true,
  read({ lineUp: l }) {
    if (!l) return null
    return l.again === undefined
      ? said('once', 'no second one')
      : said('twice', `and the region has its own: ${l.again}`)
  },
  words: () => 'no second one',
  fix: () => ({ lineUp: null }),
}
