import { said, wanted, type Measure } from '../measure'

/** The label of a programme's first frame, behind its line-up. */
export const programmeStart: Measure = {
  name: 'programme-start',
  label: 'Programme start',
  group: 'time',
  ofSections: true,
  read({ lineUp: l, described }) {
    if (!l) return null
    if (described?.start === null) return said(null, 'there is no timecode')
    return l.start === null
      ? { value: null, text: 'it may begin in the black behind the line-up, which ends on no whole second' }
      : said(l.start)
  },
  fix({ expect }) {
    const start = wanted(expect)
    return typeof start === 'string' && /^\d\d:\d\d:\d\d[:;]\d\d$/.test(start) ? { start } : null
  },
}
