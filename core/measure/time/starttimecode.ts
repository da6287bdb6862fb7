import { said, wanted, type Measure } from '../measure'

export const startTimecode: Measure = {
  name: 'start-timecode',
  label: 'Start timecode',
  group: 'time',
  read: ({ described: d }) => (d?.start ? said(d.start.label) : null),
  fix({ expect, recipe }) {
    // the setting is the programme's start, not that of what is in front of it
    if (recipe.lineUp !== null) return null
    const start = wanted(expect)
    return typeof start === 'string' && /^\d\d:\d\d:\d\d[:;]\d\d$/.test(start) ? { start } : null
  },
}
